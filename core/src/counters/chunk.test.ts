import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  columnsOf,
  decodeHistograms,
  decodeNumbers,
  decodeTimesAndValues,
  encodeHistograms,
  encodeNumbers,
  encodeTimes,
  encodeValues
} from './chunk';
import { ByteReader, ByteWriter } from './bytes';
import { readCoarse, writeCoarse } from './columns';
import type { HistogramPoint } from './points';

const moments = fc.integer({ min: 1, max: 4_000_000_000_000 });
const values = fc.oneof(
  fc.double(),
  fc.integer(),
  fc.constantFrom(0, -0, NaN, Infinity, -Infinity, Number.MAX_SAFE_INTEGER, 2 ** 60, 0.1, 1e-300),
  fc.integer({ min: -1e9, max: 1e9 }).map((value) => value / 100)
);
const points = fc.array(
  fc.record({ atMs: moments, startMs: fc.oneof(fc.constant(0), moments), value: values })
);

const buckets = fc.record({
  low: fc.integer({ min: -2000, max: 2000 }),
  counts: fc
    .array(fc.integer({ min: 0, max: 2 ** 40 }), { maxLength: 12 })
    .map((list) => Float64Array.from(list))
});
const layout = fc.oneof(
  fc.record({
    kind: fc.constant('explicit' as const),
    bounds: fc.array(fc.double({ noNaN: true }), { maxLength: 6 })
  }),
  fc.record({
    kind: fc.constant('exponential' as const),
    scale: fc.integer({ min: -10, max: 20 }),
    zeroThreshold: fc.double({ min: 0, noNaN: true })
  })
);
const histogram: fc.Arbitrary<HistogramPoint> = fc.record({
  atMs: moments,
  startMs: moments,
  count: fc.integer({ min: 0, max: 2 ** 48 }),
  sum: values,
  min: values,
  max: values,
  layout,
  positive: buckets,
  negative: buckets,
  zero: fc.integer({ min: 0, max: 2 ** 30 })
});

describe('points as bytes', () => {
  it('are read back as they were, every bit of them', () => {
    fc.assert(
      fc.property(points, (list) => {
        const columns = columnsOf(list);
        const back = decodeNumbers(encodeNumbers(columns));
        for (const name of ['atMs', 'startMs', 'values'] as const)
          expect([...back[name]].every((value, i) => Object.is(value, columns[name][i]))).toBe(true);
        expect(back.values).toHaveLength(list.length);
        expect(decodeTimesAndValues(encodeTimes(columns), encodeValues(columns.values))).toEqual(back);
      })
    );
  });

  it('of histograms too, whose layouts change', () => {
    fc.assert(
      fc.property(fc.array(histogram, { maxLength: 12 }), (list) => {
        expect(decodeHistograms(encodeHistograms(list))).toEqual(list);
      })
    );
  });

  it('are refused where they are cut or forged, in words', () => {
    const bytes = encodeNumbers(
      columnsOf([
        { atMs: 1000, startMs: 0, value: 0.1 + 0.2 },
        { atMs: 2000, startMs: 0, value: 7 }
      ])
    );
    for (let length = 0; length < bytes.length; length++)
      expect(() => decodeNumbers(bytes.subarray(0, length))).toThrow(RangeError);
    expect(() => decodeNumbers(Uint8Array.of(9, 1))).toThrow(/Unknown form/);
    expect(() => decodeNumbers(Uint8Array.of(1, 0xff, 0xff, 0xff, 0x7f))).toThrow(/More points/);
  });
});

it('numbers of which four digits are enough are off by at most one in 8,192, and keep their order', () => {
  fc.assert(
    fc.property(fc.array(fc.double({ min: -1e30, max: 1e30, noNaN: true })), (list) => {
      const kept = list.map((value) => (Math.abs(value) < 1e-30 ? 0 : value)).sort((a, b) => a - b);
      const writer = new ByteWriter();
      writeCoarse(writer, kept);
      const back = [...readCoarse(new ByteReader(writer.take()), kept.length)];
      expect(back.every((value, i) => Math.abs(value - kept[i]) <= Math.abs(kept[i]) / 8192)).toBe(true);
      expect(back).toEqual(back.toSorted((a, b) => a - b));
    })
  );
});
