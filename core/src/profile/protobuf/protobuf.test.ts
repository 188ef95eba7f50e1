import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { anyProfile } from '../../testing/any-profile';
import { decodeProfile, encodeProfile, type ProfileMessage } from '../../testing/profile-message';
import { FileHead } from '../../formats/file-head';
import { functionWeights } from '../functions';
import { fileLines } from '../lines';
import type { Profile } from '../model';
import { recogniseProfile } from '../recognise';
import { samplesIn } from '../selected-samples';
import { shape, UNSHAPED } from '../shape';
import { slice, WHOLE } from '../slice';
import { readProtobufProfile } from './read';
import { writeProtobufProfile } from './write';

const TEXTS = [
  '',
  'cpu',
  'nanoseconds',
  'main',
  'plan',
  'fits',
  '/quay/plan.go',
  'endpoint',
  '/berth',
  'thread',
  'crane',
  '/lib/libquay.so'
];
/** `main` calls `plan`, into which the compiler put `fits`. */
const message = (change: Partial<ProfileMessage> = {}): ProfileMessage => ({
  sampleType: [{ type: 1, unit: 2 }],
  sample: [
    { locationId: [2, 1], value: [30e6], label: [{ key: 7, str: 8 }] },
    { locationId: [1], value: [10e6], label: [{ key: 9, str: 10 }] }
  ],
  location: [
    { id: 1, line: [{ functionId: 1, line: 4 }] },
    {
      id: 2,
      line: [
        { functionId: 3, line: 21 },
        { functionId: 2, line: 12 }
      ]
    }
  ],
  function: [
    { id: 1, name: 3, filename: 6, startLine: 2 },
    { id: 2, name: 4, filename: 6 },
    { id: 3, name: 5, filename: 6 }
  ],
  stringTable: TEXTS,
  timeNanos: 1_790_000_000_000_000_000,
  durationNanos: 2e9,
  ...change
});
const read = (change: Partial<ProfileMessage> = {}, wanted = ''): ReturnType<typeof readProtobufProfile> =>
  readProtobufProfile(encodeProfile(message(change)), wanted);
const weightsOf = (profile: Profile): Record<string, [self: number, total: number]> =>
  Object.fromEntries(
    functionWeights(profile.frames, profile, slice(profile)).map(({ frame, self, total }) => [
      profile.frames[frame].name,
      [self, total]
    ])
  );
const codes = ({ warnings }: { warnings: { code: string; count: number }[] }): string[] =>
  warnings.map(({ code, count }) => `${code} ${count}`);

describe('a protobuf profile', () => {
  it('has what the compiler put into its callers as frames of their own, and lines of what ran', () => {
    const { profile, startedAtUs, measures } = read();
    expect(weightsOf(profile)).toEqual({ fits: [30e6, 30e6], plan: [0, 30e6], main: [10e6, 40e6] });
    expect(fileLines(profile, slice(profile), '/quay/plan.go').lines).toEqual([
      { line: 4, self: 10e6 },
      { line: 21, self: 30e6 }
    ]);
    expect(profile).toMatchObject({ valueType: 'cpu', unit: 'nanoseconds', durationNs: 0, recordedNs: 2e9 });
    expect([startedAtUs, measures]).toEqual([1_790_000_000_000_000, ['cpu']]);
  });

  it('is of the threads and labels its samples name', () => {
    const { profile } = read();
    expect(profile.threads).toEqual(['not told', 'crane']);
    expect(slice(profile, { ...WHOLE, thread: 1 }).sum).toBe(10e6);
    expect(profile.labels).toMatchObject([{ key: 'endpoint', values: ['/berth'] }]);
    expect(slice(profile, { ...WHOLE, labels: [{ label: 0, value: 0 }] }).sum).toBe(30e6);
    expect(slice(profile, { ...WHOLE, labels: [{ label: -1, value: 0 }] }).sum).toBe(0);
  });

  it('weighs by the measure that is asked for, else by the file’s default, else by the last', () => {
    const two: Partial<ProfileMessage> = {
      sampleType: [
        { type: 12, unit: 13 },
        { type: 1, unit: 2 }
      ],
      stringTable: [...TEXTS, 'samples', 'count'],
      sample: [{ locationId: [1], value: [3, 30e6] }]
    };
    expect(slice(read(two).profile).sum).toBe(30e6);
    expect(slice(read({ ...two, defaultSampleType: 12 }).profile).sum).toBe(3);
    expect(read(two, 'samples').profile).toMatchObject({ unit: 'count', measure: 'samples' });
    expect(slice(read(two, 'no such').profile).sum).toBe(30e6);
  });

  it.each([
    ['microseconds', 'nanoseconds', 1e3],
    ['seconds', 'nanoseconds', 1e9],
    ['kilobytes', 'bytes', 1024],
    ['crates', 'count', 1],
    // The name of what every object has is no unit.
    ['constructor', 'count', 1]
  ])('counts %s as %s', (unit, as, factor) => {
    const { profile } = read({ stringTable: TEXTS.with(2, unit), sample: [{ locationId: [1], value: [7] }] });
    expect([profile.unit, slice(profile).sum]).toEqual([as, 7 * factor]);
  });

  it('names a place by its address where it has no function', () => {
    const { profile } = read({
      mapping: [{ id: 1, filename: 11 }],
      location: [{ id: 1, mappingId: 1, address: 0x4a3f10, line: [] }],
      sample: [{ locationId: [1], value: [5] }]
    });
    expect(profile.frames.at(-1)).toMatchObject({
      name: '0x4a3f10',
      file: '/lib/libquay.so',
      kind: 'native'
    });
  });

  it('says what does not fit together, and counts the rest', () => {
    const odd = read({
      sample: [
        { locationId: [9], value: [5] },
        { locationId: [3], value: [7] },
        { locationId: [1], value: [-4] },
        { locationId: [], value: [2] },
        { locationId: [1], value: [] },
        // The same place over and over: recursion, and no circle to be caught in.
        { locationId: [1, 1, 1], value: [1] }
      ],
      location: [
        { id: 1, line: [{ functionId: 1, line: -4 }] },
        { id: 3, line: [{ functionId: 77, line: 1 }] }
      ],
      function: [{ id: 1, name: 400, filename: 6, startLine: -2 }]
    });
    expect(codes(odd)).toEqual([
      'unknown-location 1',
      'unknown-function 1',
      'negative-weight 1',
      'unknown-text 1'
    ]);
    expect(slice(odd.profile).sum).toBe(15);
    expect(weightsOf(odd.profile)['(anonymous)']).toEqual([1, 1]);
  });

  it('takes no more kinds of labels than anybody chooses from', () => {
    const many = Array.from({ length: 40 }, (_, i) => ({ key: TEXTS.length + i, str: 8 }));
    const odd = read({
      stringTable: [...TEXTS, ...many.map((_, i) => `label ${i}`)],
      sample: [{ locationId: [1], value: [5], label: many }]
    });
    expect(odd.profile.labels).toHaveLength(32);
    expect(codes(odd)).toEqual(['labels-cut 8']);
  });

  it('is refused in words where it is cut off or says nothing of its values', () => {
    const whole = encodeProfile(message());
    for (let length = 1; length < whole.length; length++) {
      try {
        readProtobufProfile(whole.subarray(0, length));
      } catch (cause) {
        expect((cause as Error).message).toMatch(/^Expected a protobuf profile, but it/);
      }
    }
    expect(() => readProtobufProfile(new Uint8Array())).toThrow('The file is empty');
    expect(() => read({ sampleType: [] })).toThrow('it does not say what its values are');
  });

  it('is recognised by its beginning, whichever field comes first', () => {
    const of = (bytes: Uint8Array): string | null => recogniseProfile(new FileHead(bytes));
    expect(of(encodeProfile(message()))).toBe('protobuf-profile');
    expect(of(encodeProfile({ ...message(), sampleType: [] }))).toBe('protobuf-profile');
    // An OTLP message, whose first field is a message too.
    expect(of(Uint8Array.of(0x0a, 0x04, 0x0a, 0x02, 0x0a, 0x00))).toBeNull();
    expect(of(new TextEncoder().encode('main;plan 4\n'))).toBe('folded-stacks');
  });
});

describe('a protobuf profile that is written', () => {
  const written = (profile: Profile): Uint8Array =>
    writeProtobufProfile(
      profile,
      shape(profile, UNSHAPED),
      samplesIn(profile, WHOLE, shape(profile, UNSHAPED)),
      17
    );

  it('adds up to the same by an independent decoder, whatever the stacks', () => {
    fc.assert(
      fc.property(anyProfile, (profile) => {
        const decoded = decodeProfile(written(profile));
        const sum = decoded.sample.reduce((total, { value }) => total + value[0], 0);
        expect(Math.abs(sum - slice(profile).sum)).toBeLessThanOrEqual(0.5);
        expect(decoded.stringTable[0]).toBe('');
        expect(new Set(decoded.location.map(({ id }) => id)).size).toBe(decoded.location.length);
      })
    );
  });

  it('is read as the same functions', () => {
    fc.assert(
      fc.property(anyProfile, (profile) => {
        const again = readProtobufProfile(written(profile)).profile;
        const was = weightsOf(profile);
        const is = weightsOf(again);
        for (const [name, [self, total]] of Object.entries(was)) {
          expect(Math.abs((is[name]?.[0] ?? 0) - self)).toBeLessThanOrEqual(1);
          expect(Math.abs((is[name]?.[1] ?? 0) - total)).toBeLessThanOrEqual(1);
        }
      })
    );
  });

  it('keeps threads, labels and lines', () => {
    const { profile } = read();
    const again = readProtobufProfile(written(profile)).profile;
    expect(again.threads).toEqual(profile.threads);
    expect(again.labels).toMatchObject([{ key: 'endpoint', values: ['/berth'] }]);
    expect(slice(again, { ...WHOLE, labels: [{ label: 0, value: 0 }] }).sum).toBe(30e6);
    expect(fileLines(again, slice(again), '/quay/plan.go').lines).toEqual(
      fileLines(profile, slice(profile), '/quay/plan.go').lines
    );
  });
});
