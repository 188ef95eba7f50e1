import { ExportTraceServiceRequest } from '../core/src/formats/otlp/schema';

// Requests as the benchmarks of a large store send them.

export const ENDPOINTS = 50;
export const HOSTS = 4;
/** Share of requests that fail, of how many kinds. */
const FAILING = 0.02;
const KINDS = 60;

/** A small generator of numbers that is the same in each run. */
let seed = 1;
export const random = (): number => {
  seed = (seed * 1_664_525 + 1_013_904_223) % 4_294_967_296;
  return seed / 4_294_967_296;
};
const text = (key: string, stringValue: string): object => ({ key, value: { stringValue } });
const id = (value: number, length: number): Uint8Array => {
  const out = new Uint8Array(length);
  const view = new DataView(out.buffer);
  view.setUint32(length - 4, value >>> 0);
  // Trace ids are spread, as real ones are.
  if (length === 16) view.setUint32(0, Math.imul(value, 2_654_435_761) >>> 0);
  out[length - 5] = 1;
  return out;
};
const at = (ms: number): { low: number; high: number; unsigned: boolean } => {
  const ns = BigInt(Math.round(ms * 1000)) * 1000n;
  return { low: Number(ns & 0xffffffffn) | 0, high: Number(ns >> 32n) | 0, unsigned: true };
};

/** An exception of one of so many kinds, as an SDK records it. */
function thrownAt(ms: number, kind: number): object {
  const type = `BerthError${kind}`;
  const frames = Array.from(
    { length: 20 },
    (_, i) => `    at step${i} (/srv/berths/part-${kind}.ts:${10 + i}:5)`
  );
  return {
    timeUnixNano: at(ms),
    name: 'exception',
    attributes: [
      text('exception.type', type),
      text('exception.message', `berth ${Math.floor(random() * 900)} is taken`),
      text('exception.stacktrace', [`${type}: taken`, ...frames].join('\n'))
    ]
  };
}

/** What was made so far. */
export const made = { traces: 0, spans: 0 };
/** A request of one of 50 endpoints on one of four hosts, with queries as its calls. */
export function requestSpans(startMs: number, spans: number): { host: number; spans: object[] } {
  const traceId = id(++made.traces, 16);
  const root = id(++made.spans, 8);
  const endpoint = Math.floor(random() ** 2 * ENDPOINTS);
  const host = Math.floor(random() * HOSTS);
  const slow = host === 3 ? 2 : 1;
  const each = (1 + random() * 4) * slow;
  const fails = random() < FAILING;
  const list: object[] = [
    {
      traceId,
      spanId: root,
      name: 'GET',
      kind: 2,
      startTimeUnixNano: at(startMs),
      endTimeUnixNano: at(startMs + each * spans),
      status: { code: fails ? 2 : 0 },
      events: fails ? [thrownAt(startMs + each, Math.floor(random() ** 2 * KINDS))] : [],
      attributes: [
        text('http.request.method', 'GET'),
        text('http.route', `/berths/part-${endpoint}`),
        text('user.id', `user-${Math.floor(random() * 3000)}`),
        text('berth.zone', ['north', 'south', 'east'][Math.floor(random() * 3)]),
        { key: 'http.response.status_code', value: { intValue: 200 } }
      ]
    }
  ];
  for (let i = 1; i < spans; i++)
    list.push({
      traceId,
      spanId: id(++made.spans, 8),
      parentSpanId: root,
      name: 'SELECT',
      kind: 3,
      startTimeUnixNano: at(startMs + (i - 1) * each),
      endTimeUnixNano: at(startMs + (i - 0.2) * each),
      attributes: [
        text('db.system.name', 'postgresql'),
        text(
          'db.query.text',
          `SELECT id, tonnes FROM part_${(endpoint * 3 + (i % 3)) % 60} WHERE call_id = ${i}`
        ),
        text('code.file.path', 'berths/plan.ts'),
        { key: 'code.line.number', value: { intValue: 20 + (i % 3) } }
      ]
    });
  return { host, spans: list };
}

/** Requests of one release as an OTLP body. */
export function encode(requests: { host: number; spans: object[] }[], release: string): Uint8Array {
  const byHost = new Map<number, object[]>();
  for (const { host, spans } of requests) byHost.set(host, [...(byHost.get(host) ?? []), ...spans]);
  const resourceSpans = [...byHost].map(([host, spans]) => ({
    resource: {
      attributes: [
        text('service.name', 'berths'),
        text('host.name', `quay-${host}`),
        text('service.version', release)
      ]
    },
    scopeSpans: [{ spans }]
  }));
  return ExportTraceServiceRequest.encode(ExportTraceServiceRequest.create({ resourceSpans })).finish();
}
