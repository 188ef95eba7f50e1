import { describe, expect, it } from 'vitest';
import { EvidenceError } from '../../formats/evidence-error';
import { FileHead } from '../../formats/file-head';
import { recognise } from '../../formats/recognise';
import { maskOtlpProfiles } from '../../mask/otlp-profiles';
import { functionWeights } from '../functions';
import { slice, WHOLE } from '../slice';
import { decodeOtlpProfiles } from './document';
import { readOtlpProfile } from './read';
import { looksLikeOtlpProfiles } from './recognise';
import { ProfilesData } from './schema';
import { splitOtlpProfiles } from './split';

const TEXTS = [
  '',
  'cpu',
  'nanoseconds',
  'plan',
  'fits',
  '/quay/plan.go',
  'thread.id',
  'crane',
  'samples',
  'count'
];
const START = '1790000000000000000';
const at = (ns: number): string => String(BigInt(START) + BigInt(ns));
const of = (service: string): object => ({
  attributes: [{ key: 'service.name', value: { stringValue: service } }]
});
const text = (stringValue: string): object => ({ stringValue });

const DICTIONARY = {
  stringTable: TEXTS,
  functionTable: [
    {},
    { nameStrindex: 3, filenameStrindex: 5, startLine: 2 },
    { nameStrindex: 4, filenameStrindex: 5 }
  ],
  // `plan`, into which the compiler put `fits`; and a place of which the address alone is known.
  locationTable: [
    {},
    { lines: [{ functionIndex: 1, line: 4 }] },
    {
      lines: [
        { functionIndex: 2, line: 21 },
        { functionIndex: 1, line: 12 }
      ]
    },
    { address: 0x4a3f10, mappingIndex: 1 }
  ],
  mappingTable: [{}, { filenameStrindex: 7 }],
  attributeTable: [
    {},
    { keyStrindex: 6, value: { intValue: 7 } },
    { keyStrindex: 7, value: text('east') },
    { keyStrindex: 7, value: { boolValue: true } }
  ],
  stackTable: [{}, { locationIndices: [1] }, { locationIndices: [2, 1] }, { locationIndices: [3, 1] }]
};
const PROFILE = {
  sampleType: { typeStrindex: 1, unitStrindex: 2 },
  timeUnixNano: START,
  durationNano: '1000000',
  samples: [
    { stackIndex: 2, values: [30, 20], timestampsUnixNano: [at(500), at(100)], attributeIndices: [1, 2] },
    { stackIndex: 3, values: [10], timestampsUnixNano: [at(300)] }
  ]
};
type Change = { profile?: object; dictionary?: object; profiles?: object[] };
const message = ({ profile = {}, dictionary = {}, profiles }: Change = {}): object => ({
  resourceProfiles: profiles ?? [
    { resource: of('cranes'), scopeProfiles: [{ profiles: [{ ...PROFILE, ...profile }] }] }
  ],
  dictionary: { ...DICTIONARY, ...dictionary }
});
const inProtobuf = (change?: Change): Uint8Array =>
  ProfilesData.encode(ProfilesData.fromObject(message(change))).finish();
const inJson = (change?: Change): Uint8Array => new TextEncoder().encode(JSON.stringify(message(change)));

/** Refers to what is not there, weighs less than nothing, and has not a time for each value. */
const ODD: Change = {
  profile: {
    samples: [
      { stackIndex: 9, values: [5] },
      { stackIndex: -1, values: [5] },
      { stackIndex: 1, values: [-4] },
      { stackIndex: 1, values: [1, 2], timestampsUnixNano: [at(1)] },
      { stackIndex: 4, values: [7] },
      { stackIndex: 1 }
    ]
  },
  dictionary: {
    stackTable: [...DICTIONARY.stackTable, { locationIndices: [99, 4, 4] }],
    locationTable: [...DICTIONARY.locationTable, { lines: [{ functionIndex: 88 }] }],
    functionTable: [{}, { nameStrindex: 700 }]
  }
};

const codes = ({ warnings }: { warnings: { code: string; count: number }[] }): string[] =>
  warnings.map(({ code, count }) => `${code} ${count}`);

describe.each([
  ['protobuf', inProtobuf],
  ['JSON', inJson]
])('OTLP profiles in %s', (_, written) => {
  const read = (change?: Change, wanted = ''): ReturnType<typeof readOtlpProfile> =>
    readOtlpProfile(written(change), wanted);

  it('are samples in their order of time, with stacks, lines, threads and attributes', () => {
    const { profile, measures, startedAtUs, warnings } = read();
    expect([measures, startedAtUs, warnings]).toEqual([['cpu'], 1_790_000_000_000_000, []]);
    expect([...profile.sampleTime]).toEqual([100, 300, 500]);
    expect([...profile.sampleWeight]).toEqual([20, 10, 30]);
    expect(profile.durationNs).toBe(1e6);
    expect(profile.threads).toEqual(['7', 'not told']);
    expect(profile.labels).toMatchObject([{ key: 'crane', values: ['east'] }]);
    const weights = functionWeights(profile.frames, profile, slice(profile)).map(({ frame, self, total }) => [
      profile.frames[frame].name,
      self,
      total
    ]);
    expect(weights).toContainEqual(['fits', 50, 50]);
    expect(weights).toContainEqual(['plan', 0, 60]);
    expect(weights).toContainEqual(['0x4a3f10', 10, 10]);
    expect(slice(profile, { ...WHOLE, spans: Float64Array.of(0, 200) }).sum).toBe(20);
  });

  it('count once where only moments are told, and stand for time where it is told how often', () => {
    const counted = {
      sampleType: { typeStrindex: 8, unitStrindex: 9 },
      samples: [{ stackIndex: 1, timestampsUnixNano: [at(0), at(10)] }]
    };
    expect(read({ profile: counted }).profile).toMatchObject({
      unit: 'count',
      durationNs: 0,
      recordedNs: 1e6
    });
    const timed = { ...counted, periodType: PROFILE.sampleType, period: 50_000 };
    const { profile } = read({ profile: timed });
    expect(profile).toMatchObject({ unit: 'nanoseconds', valueType: 'cpu', durationNs: 1e6 });
    expect(slice(profile).sum).toBe(100_000);
  });

  it('of several processes can be chosen from', () => {
    const profiles = ['cranes', 'tides', 'tides'].map((service, i) => ({
      resource: of(service),
      scopeProfiles: [{ profiles: [{ ...PROFILE, samples: [{ stackIndex: 1, values: [i + 1] }] }] }]
    }));
    expect(read({ profiles }).measures).toEqual(['cpu of cranes', 'cpu of tides', 'cpu of tides (2)']);
    expect(slice(read({ profiles }, 'cpu of tides (2)').profile).sum).toBe(3);
    const split = [...splitOtlpProfiles(written({ profiles }))];
    expect(split.map(({ resource }) => resource.service)).toEqual(['cranes', 'tides', 'tides']);
    // Each with what it uses alone.
    expect(decodeOtlpProfiles(split[2].content).dictionary.stringTable).toEqual([
      '',
      'cpu',
      'nanoseconds',
      'plan',
      '/quay/plan.go'
    ]);
    expect(slice(readOtlpProfile(split[2].content).profile).sum).toBe(3);
  });

  it('say what does not fit together, and count the rest', () => {
    const odd = read(ODD);
    expect(codes(odd)).toEqual([
      'unknown-location 3',
      'unknown-text 1',
      'negative-weight 1',
      'times-missing 1',
      'unknown-function 1'
    ]);
    expect(slice(odd.profile).sum).toBe(20);
    const [split] = splitOtlpProfiles(written(ODD));
    // What is not there is counted once, whatever its number was.
    expect(codes(readOtlpProfile(split.content))).toEqual(codes(odd).with(0, 'unknown-location 2'));
  });

  it('are told from traces by their beginning', () => {
    expect(recognise(written())).toEqual({ kind: 'profile', format: 'otlp-profiles' });
  });

  it('keep no secret', () => {
    const masked = maskOtlpProfiles(
      written({
        dictionary: {
          stringTable: [...TEXTS, 'password', 'https://quay.example/plan?key=oarlock'],
          attributeTable: [{}, { keyStrindex: TEXTS.length, value: text('oarlock') }]
        }
      })
    );
    expect(new TextDecoder().decode(masked)).not.toContain('oarlock');
    expect(decodeOtlpProfiles(masked).profiles[0].resource.service).toBe('cranes');
    expect(maskOtlpProfiles(masked)).toBe(masked);
  });
});

describe('damaged OTLP profiles', () => {
  it('are refused in words wherever they are cut off', () => {
    const whole = inProtobuf();
    for (let length = 1; length < whole.length; length++)
      try {
        readOtlpProfile(whole.subarray(0, length));
      } catch (cause) {
        expect(cause).toBeInstanceOf(EvidenceError);
      }
    expect(() => readOtlpProfile(inJson().subarray(0, 80))).toThrow(/Send them again whole/);
    expect(() => readOtlpProfile(new Uint8Array())).toThrow('The file is empty');
    expect(() => readOtlpProfile(inJson({ profiles: [] }))).toThrow('holds no profile');
  });

  it('are refused before millions of messages fill the memory', () => {
    // Samples of no byte: field 2 of a profile, length 0.
    const samples = Buffer.alloc(2 * 4_000_001).map((_, i) => (i % 2 === 0 ? 0x12 : 0));
    const nested = (field: number, inner: Uint8Array): Buffer => {
      const head = [(field << 3) | 2];
      for (let rest = inner.length; ; rest = Math.floor(rest / 128)) {
        head.push(rest >= 128 ? (rest % 128) | 0x80 : rest);
        if (rest < 128) return Buffer.concat([Buffer.from(head), inner]);
      }
    };
    const whole = nested(1, nested(2, nested(2, samples)));
    expect(() => readOtlpProfile(whole)).toThrow(/at most 4000000 samples/);
  });

  it.each([
    ['a span', [0x0a, 0x18, 0x12, 0x16, 0x12, 0x14, 0x0a, 0x10, ...Array<number>(16).fill(7), 0x12, 0x00]],
    ['nothing', [0x0a, 0x00]],
    ['a length beyond the file', [0x0a, 0xff, 0xff, 0x03]],
    ['a byte', [0x0a]]
  ])('are not what %s is', (_, bytes) => {
    expect(looksLikeOtlpProfiles(new FileHead(Uint8Array.from(bytes)))).toBe(false);
  });
});
