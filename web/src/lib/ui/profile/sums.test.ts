import { describe, expect, it } from 'vitest';
import type { FunctionPoint } from '@tromix/core/profile/sums/scope-sums';
import { dictionaryOf, recordBytes, recordsOf, type SentRecord } from '$lib/profile-sums';
import type { OpenedSums } from '$lib/workers/profile.worker';
import { functionCsv } from './function-csv';
import { binsOf } from './function-points';
import { sumsReading } from './sums-reading';

const streamOf = (bytes: Uint8Array, cut: number): ReadableStream<Uint8Array> =>
  new ReadableStream({
    start(controller) {
      for (let at = 0; at < bytes.length; at += cut) controller.enqueue(bytes.subarray(at, at + cut));
      controller.close();
    }
  });
async function allOf(bytes: Uint8Array, cut: number): Promise<SentRecord[]> {
  const found: SentRecord[] = [];
  for await (const record of recordsOf(streamOf(bytes, cut))) found.push(record);
  return found;
}

describe('sums as they are sent', () => {
  const numbers = Int32Array.of(7, 9, 0, 7, 1, 0);
  const sent = Buffer.concat([
    recordBytes({ slices: 1 }),
    recordBytes({ frames: [{ name: 'a' }, { name: 'b' }] }, [new Uint8Array(numbers.buffer)]),
    recordBytes([{ bytes: 2 }], [Uint8Array.of(1), Uint8Array.of(2)])
  ]);

  it.each([1, 3, 7, 1000])('are read however the network cuts them: %s bytes at a time', async (cut) => {
    const [head, dictionary, slices] = await allOf(sent, cut);
    expect(head.json).toEqual({ slices: 1 });
    const { stack, parent, frame } = dictionaryOf(dictionary);
    expect([[...stack], [...parent], [...frame]]).toEqual([
      [7, 9],
      [0, 7],
      [1, 0]
    ]);
    expect([...slices.bytes]).toEqual([1, 2]);
  });

  it('say that they broke off', async () => {
    await expect(allOf(sent.subarray(0, sent.length - 1), 5)).rejects.toThrow(/broke off/);
  });
});

describe('a function over time', () => {
  const point = (startUs: number, release: number, requests: number, totalUs: number): FunctionPoint => ({
    startUs,
    lengthUs: 5e6,
    spanUs: 5e6,
    release,
    requests,
    selfUs: 0,
    totalUs
  });

  it('is what it took of a request, bin by bin and by release', () => {
    const { bins, binMs, toMs } = binsOf(
      [point(0, 1, 4, 8000), point(5e6, 1, 0, 0), point(10e6, 1, 2, 1000), point(10e6, 2, 1, 900)],
      'request'
    );
    expect(binMs).toBe(5000);
    expect(toMs).toBe(15_000);
    // Without a request nothing is known of one.
    expect(bins.map(({ at, release, figure }) => [at, release, figure])).toEqual([
      [0, 1, 2_000_000],
      [10_000, 1, 500_000],
      [10_000, 2, 900_000]
    ]);
  });

  it('is what it took of a second that was recorded, where no endpoint is looked at', () => {
    const { bins } = binsOf([point(0, 1, 0, 50_000)], 'second');
    expect(bins[0].figure).toBe(10_000_000);
  });
});

it('functions as a file have a value under each head, counted calls among them', () => {
  const frames = ['a', 'b'].map((name) => ({
    name,
    file: '/quay/a.js',
    line: 3,
    column: 5,
    package: '',
    kind: 'app' as const
  }));
  const csv = functionCsv(
    { frames, unit: 'nanoseconds', calls: Float64Array.of(0, 12) },
    [{ frame: 1, self: 5, total: 9 }],
    4
  );
  const [head, row] = csv
    .trim()
    .split(/\r?\n/)
    .map((line) => line.split(','));
  expect(row).toHaveLength(head.length);
  expect(Object.fromEntries(head.map((name, i) => [name, row[i]]))).toMatchObject({
    name: 'b',
    total: '9',
    requests: '4',
    calls: '12'
  });
});

describe('the reading of a scope', () => {
  const opened = (more: Partial<OpenedSums['sums']>): OpenedSums =>
    ({
      valueType: 'cpu',
      sums: {
        coveredUs: 60e6,
        processes: 2,
        busyUs: 3e6,
        idleUs: 57e6,
        requests: 12,
        sharedUs: 0,
        samples: 1,
        releases: [],
        endpoints: [],
        valueTypes: ['cpu'],
        fromUs: 0,
        toUs: 600e6,
        part: 1,
        ...more
      }
    }) as unknown as OpenedSums;
  const text = (words: readonly unknown[]): string => JSON.stringify(words).replace(/[",[\]]/g, '');

  it('says how much of the time is covered, and what a request took', () => {
    expect(text(sumsReading(opened({}), 'GET /plan'))).toMatch(
      /2 processes cover 60 s of the 10 min here of each 5\s?% of it\. The rest is not known\..*GET \/plan computed for 250 ms a request: 3 s in 12 requests/
    );
  });

  it('says what was divided, and what is still to come', () => {
    expect(text(sumsReading(opened({ sharedUs: 1.5e6 }), 'GET /plan'))).toMatch(/50\s?% of that was divided/);
    expect(text(sumsReading(opened({ part: 0.25 }), ''))).toMatch(/25\s?% of the recordings are added up/);
  });
});
