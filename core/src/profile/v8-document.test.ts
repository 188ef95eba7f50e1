import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { NotAProfile, readV8Document, type V8Document } from './v8-document';

const encode = (text: string): Uint8Array => new TextEncoder().encode(text);
const plain = (document: V8Document): unknown => ({
  ...document,
  samples: Array.from(document.samples),
  timeDeltas: Array.from(document.timeDeltas)
});
const read = (value: unknown, space?: number | string): unknown =>
  plain(readV8Document(encode(JSON.stringify(value, null, space))));
/** The same by the parser alone: a key written with an escape is what the walk does not read. */
const parsed = (value: object): unknown =>
  plain(readV8Document(encode(JSON.stringify(value).replace('"nodes"', '"\\u006eodes"'))));

const callFrame = fc.record({
  functionName: fc.constantFrom('', 'plan', 'a}b', '"quoted"', '__proto__', '⚓', '(root)'),
  scriptId: fc.constantFrom('1', '2'),
  url: fc.constantFrom('', 'file:///srv/a.js', 'node:fs', 'file:///srv/{x}.js'),
  lineNumber: fc.integer({ min: -1, max: 50 }),
  columnNumber: fc.integer({ min: -1, max: 9 })
});
const node = fc.record(
  {
    id: fc.nat(30),
    callFrame,
    hitCount: fc.nat(5),
    children: fc.array(fc.nat(30), { maxLength: 4 }),
    parent: fc.nat(30),
    positionTicks: fc.array(fc.record({ line: fc.nat(60), ticks: fc.nat(9) }), { maxLength: 3 }),
    deoptReason: fc.string()
  },
  { requiredKeys: ['id', 'callFrame'] }
);
const profile = fc.record(
  {
    nodes: fc.array(node, { minLength: 1, maxLength: 12 }),
    startTime: fc.oneof(fc.nat(), fc.double({ min: 0, max: 1e12, noNaN: true })),
    endTime: fc.nat(),
    samples: fc.array(fc.nat(40)),
    timeDeltas: fc.array(fc.integer({ min: -3000, max: 2 ** 40 })),
    title: fc.jsonValue()
  },
  { requiredKeys: ['nodes', 'startTime', 'endTime', 'samples', 'timeDeltas'] }
);

describe('a V8 CPU profile straight from its bytes', () => {
  it('is what the parser makes of it, in whatever order and spacing it stands', () => {
    fc.assert(
      fc.property(profile, fc.constantFrom(undefined, 1, '\t'), fc.boolean(), (value, space, turned) => {
        const written = turned ? Object.fromEntries(Object.entries(value).reverse()) : value;
        expect(read(written, space)).toEqual(parsed(value));
      }),
      { numRuns: 300 }
    );
  });

  it('says the same function once, however often nodes name it', () => {
    const call = {
      functionName: 'plan',
      scriptId: '1',
      url: 'file:///srv/a.js',
      lineNumber: 3,
      columnNumber: 1
    };
    const nodes = Array.from({ length: 50 }, (_, id) => ({ id, callFrame: { ...call, lineNumber: id % 2 } }));
    const document = readV8Document(
      encode(JSON.stringify({ nodes, startTime: 0, endTime: 1, samples: [], timeDeltas: [] }))
    );
    expect(document.nodes.frames).toHaveLength(2);
    expect(document.nodes.frame.slice(0, 4)).toEqual([0, 1, 0, 1]);
  });

  it('with any byte changed is read alike by both ways, or refused by both', () => {
    const value = {
      nodes: [
        {
          id: 1,
          callFrame: { functionName: '(root)', url: '', lineNumber: -1, columnNumber: -1 },
          children: [2]
        },
        { id: 2, callFrame: { functionName: 'f}', url: 'a', lineNumber: 1, columnNumber: 2 } }
      ],
      startTime: 1,
      endTime: 9,
      samples: [2, 1],
      timeDeltas: [3, 4]
    };
    const text = JSON.stringify(value);
    const outcome = (bytes: Uint8Array): unknown => {
      try {
        return plain(readV8Document(bytes));
      } catch (cause) {
        if (cause instanceof SyntaxError || cause instanceof NotAProfile) return 'refused';
        throw cause;
      }
    };
    const byParser = (changed: string): unknown => {
      try {
        JSON.parse(changed);
      } catch {
        return 'refused';
      }
      return null;
    };
    fc.assert(
      fc.property(fc.nat(text.length - 1), fc.constantFrom(...'0-,]}["{: .ex1'), (at, sign) => {
        const changed = text.slice(0, at) + sign + text.slice(at + 1);
        const found = outcome(encode(changed));
        if (byParser(changed) === 'refused') expect(found).toBe('refused');
      }),
      { numRuns: 1500 }
    );
  });

  it.each([
    ['[]', 'no object'],
    ['{"nodes":[]}', 'no list of nodes'],
    ['{"nodes":[{"id":1,"callFrame":{}}]}', 'no samples'],
    ['{"nodes":[{"id":1,"callFrame":{}}],"samples":[],"timeDeltas":[]}', 'no start and end time'],
    [
      '{"nodes":[{"callFrame":{}}],"samples":[],"timeDeltas":[],"startTime":0,"endTime":1}',
      'no id or call frame'
    ],
    ['{"nodes":[null],"samples":[],"timeDeltas":[],"startTime":0,"endTime":1}', 'no id or call frame']
  ])('is refused with what it lacks: %s', (text, words) =>
    expect(() => readV8Document(encode(text))).toThrow(words)
  );
});
