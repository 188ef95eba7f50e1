import { gzipSync } from 'fflate';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { EvidenceError } from './evidence-error';
import { gunzip } from './gzip';
import { ExportTraceServiceRequest } from './otlp/schema';
import { decodeTracesJson, decodeTracesProtobuf } from './otlp/traces';
import { attributesOf, DEFAULT_VALUE_LIMITS, momentOf } from './otlp/values';
import { recognise } from './recognise';

const bytes = (text: string): Uint8Array => new TextEncoder().encode(text);
const codeOf = (work: () => unknown): string => {
  try {
    work();
  } catch (cause) {
    if (cause instanceof EvidenceError) return cause.code;
    throw cause;
  }
  return 'none';
};
const TRACE = '0af7651916cd43dd8448eb211c80319c';
const SPAN = 'b7ad6b7169203331';
const message = (span: object): object => ({
  resourceSpans: [
    {
      resource: { attributes: [{ key: 'service.name', value: { stringValue: 'berths' } }] },
      scopeSpans: [
        {
          spans: [
            {
              traceId: TRACE,
              spanId: SPAN,
              name: 'x',
              kind: 2,
              startTimeUnixNano: '1700000000123456789',
              endTimeUnixNano: '1700000000223456789',
              ...span
            }
          ]
        }
      ]
    }
  ]
});
const decode = (span: object) => decodeTracesJson(JSON.stringify(message(span)));

describe('OTLP traces', () => {
  it('reads times to the nanosecond', () => {
    expect(decode({}).spans[0]).toMatchObject({
      traceId: TRACE,
      startUs: 1_700_000_000_123_456,
      startNs: 789,
      durationNs: 100_000_000
    });
  });

  it('reads the same from protobuf as from JSON', () => {
    const hex = (text: string): Uint8Array =>
      Uint8Array.from(text.match(/../g)!, (pair) => parseInt(pair, 16));
    const attributes = [
      { key: 'a', value: { stringValue: 'text' } },
      { key: 'b', value: { boolValue: true } },
      { key: 'c', value: { intValue: 42 } },
      { key: 'd', value: { doubleValue: 1.5 } },
      { key: 'e', value: { arrayValue: { values: [{ intValue: 1 }, { stringValue: 'x' }] } } }
    ];
    const one = message({
      attributes,
      events: [{ timeUnixNano: '1700000000123457000', name: 'gc', attributes: [] }],
      status: { code: 2, message: 'no' }
    });
    const text = JSON.stringify(one);
    const binary = JSON.parse(text, (key, value: unknown) =>
      key === 'traceId' || key === 'spanId' ? Array.from(hex(value as string)) : value
    ) as object;
    const encoded = ExportTraceServiceRequest.encode(ExportTraceServiceRequest.fromObject(binary)).finish();
    expect(decodeTracesProtobuf(new Uint8Array(encoded)).spans).toEqual(decodeTracesJson(text).spans);
  });

  it('rejects and counts spans without ids or start', () => {
    const { spans, rejected } = decodeTracesJson(
      [{ traceId: '0'.repeat(32) }, { spanId: 'zz' }, { startTimeUnixNano: 0 }, {}]
        .map((span) => JSON.stringify(message(span)))
        .join('\n')
    );
    expect(spans).toHaveLength(1);
    expect(rejected.map(({ count }) => count)).toEqual([1, 1, 1]);
  });

  it('gives a span that ends before it starts no length, and counts it', () => {
    const { spans, warnings } = decode({ endTimeUnixNano: '1600000000000000000' });
    expect(spans[0].durationNs).toBe(0);
    expect(warnings).toMatchObject([{ code: 'ends-before-start', count: 1 }]);
  });

  it('cuts what goes beyond the limits and says so', () => {
    let nested: object = { stringValue: 'deep' };
    for (let i = 0; i < 200; i++) nested = { arrayValue: { values: [nested] } };
    const attributes = [
      { key: 'long', value: { stringValue: 'x'.repeat(20_000) } },
      { key: 'nested', value: nested },
      ...Array.from({ length: 400 }, (_, i) => ({ key: `k${i}`, value: { intValue: String(i) } }))
    ];
    const { spans, warnings } = decode({ attributes });
    expect(spans[0].attributes.size).toBe(DEFAULT_VALUE_LIMITS.attributes);
    expect(String(spans[0].attributes.get('long'))).toHaveLength(DEFAULT_VALUE_LIMITS.valueLength);
    expect(warnings).toMatchObject([{ code: 'attribute-cut', count: 3 }]);
  });

  it('words what is no OTLP', () => {
    expect(codeOf(() => decodeTracesJson('{"spans": []}'))).toBe('not-otlp');
    expect(codeOf(() => decodeTracesJson('{"resourceSpans": ['))).toBe('json-damaged');
    expect(codeOf(() => decodeTracesJson('null'))).toBe('not-otlp');
    expect(codeOf(() => decodeTracesProtobuf(Uint8Array.of(0x12, 0x02, 0x61, 0x62)))).toBe('not-otlp');
    expect(codeOf(() => decodeTracesProtobuf(Uint8Array.of(0x0a, 0xff, 0x01)))).toBe('otlp-damaged');
  });

  it('never fails but with a worded error, whatever the bytes', () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 200 }), (content) => {
        expect(['none', 'not-otlp', 'otlp-damaged']).toContain(codeOf(() => decodeTracesProtobuf(content)));
      })
    );
    fc.assert(
      fc.property(fc.json(), (text) => {
        expect(['none', 'not-otlp', 'json-damaged']).toContain(codeOf(() => decodeTracesJson(text)));
      })
    );
  });
});

describe('values', () => {
  it('splits 64-bit nanoseconds exactly, from the halves of protobuf and from text', () => {
    fc.assert(
      fc.property(fc.bigInt({ min: 1000n, max: 2n ** 63n - 1n }), (ns) => {
        const expected = { us: Number(ns / 1000n), ns: Number(ns % 1000n) };
        fc.pre(expected.us <= Number.MAX_SAFE_INTEGER);
        expect(momentOf(ns.toString())).toEqual(expected);
        expect(momentOf({ low: Number(ns & 0xffffffffn) | 0, high: Number(ns >> 32n) | 0 })).toEqual(
          expected
        );
      })
    );
  });

  it('keeps __proto__ as a name', () => {
    const attributes = attributesOf(
      [{ key: '__proto__', value: { stringValue: 'x' } }],
      DEFAULT_VALUE_LIMITS,
      () => undefined
    );
    expect(attributes.get('__proto__')).toBe('x');
  });
});

describe('gunzip', () => {
  const limits = { maxBytes: 1000, setting: 'SETTING' };

  it('inflates, and passes on what is not gzip', () => {
    expect(gunzip(gzipSync(bytes('hello')), limits)).toEqual(bytes('hello'));
    expect(gunzip(bytes('hello'), limits)).toEqual(bytes('hello'));
  });

  it('refuses what inflates too far, naming the setting', () => {
    expect(() => gunzip(gzipSync(new Uint8Array(2_000_000)), limits)).toThrow(/SETTING/);
  });

  it('words truncated and damaged content at any length', () => {
    const whole = gzipSync(bytes('a long enough text '.repeat(40)));
    for (let length = 3; length < whole.length; length += 7) {
      expect(['gzip-truncated', 'gzip-damaged']).toContain(
        codeOf(() => gunzip(whole.slice(0, length), { ...limits, maxBytes: 1e6 }))
      );
    }
  });
});

describe('recognise', () => {
  it('goes by content', () => {
    expect(recognise(bytes('  {"resourceSpans": []}')).format).toBe('otlp-json');
    expect(recognise(bytes('{"nodes":[]}')).format).toBe('v8-cpu-profile');
    expect(recognise(Uint8Array.of(0x0a, 0x04, 0x12, 0x02, 0x12, 0x00)).format).toBe('otlp-protobuf');
  });

  it('words what it does not know', () => {
    expect(codeOf(() => recognise(new Uint8Array()))).toBe('empty');
    for (const text of ['{"a": 1}', '[1]', 'hello', '\u0000\u0001'])
      expect(codeOf(() => recognise(bytes(text)))).toBe('unknown-format');
  });
});
