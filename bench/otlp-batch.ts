import { ExportTraceServiceRequest } from '../core/src/formats/otlp/schema';

/** Spans of one batch. */
export const SPANS = 5000;

/**
 * Requests of 25 spans: a server span, internal work, and queries, half with parameters as drivers write them, half with literals.
 * @param everyFails each so-manyth span tells of an exception, with a stack of ten frames as Node.js writes it; 0 for none
 */
export function otlpBatch(number: number, everyFails = 0): Uint8Array {
  const spans: object[] = [];
  const bytes = (value: number, length: number): Uint8Array => {
    const out = new Uint8Array(length);
    new DataView(out.buffer).setUint32(length - 4, value + 1);
    out[0] = 1;
    return out;
  };
  const at = (ms: number): { low: number; high: number; unsigned: boolean } => {
    const ns = BigInt(Math.round((Date.now() - 60_000 + ms) * 1e6));
    return { low: Number(ns & 0xffffffffn) | 0, high: Number(ns >> 32n) | 0, unsigned: true };
  };
  const text = (key: string, stringValue: string): object => ({ key, value: { stringValue } });
  for (let i = 0; i < SPANS; i++) {
    const request = Math.floor(i / 25);
    const inside = i % 25;
    const root = number * SPANS + request * 25;
    spans.push({
      traceId: bytes(number * 1000 + request, 16),
      spanId: bytes(number * SPANS + i, 8),
      parentSpanId: inside === 0 ? new Uint8Array() : bytes(root, 8),
      name: inside === 0 ? 'POST /calls/:id/berth' : 'SELECT',
      kind: inside === 0 ? 2 : 3,
      startTimeUnixNano: at(request * 40 + inside * 1.5),
      endTimeUnixNano: at(request * 40 + (inside === 0 ? 39 : inside * 1.5 + 1)),
      ...(everyFails > 0 && i % everyFails === everyFails - 1
        ? { status: { code: 2 }, events: [exceptionEvent(i, at(request * 40 + inside * 1.5 + 0.5), text)] }
        : {}),
      attributes:
        inside === 0
          ? [
              text('http.request.method', 'POST'),
              text('http.route', '/calls/:id/berth'),
              { key: 'http.response.status_code', value: { intValue: 200 } }
            ]
          : [
              text('db.system.name', 'postgresql'),
              text(
                'db.query.text',
                i % 2
                  ? 'SELECT id, tonnes FROM manifest WHERE call_id = $1'
                  : `SELECT id FROM line WHERE call_id = ${i} AND state = 'open'`
              ),
              text('server.address', 'quay-db'),
              text('code.file.path', 'berths/plan.ts'),
              { key: 'code.line.number', value: { intValue: 88 } }
            ]
    });
  }
  const resource = {
    attributes: [text('service.name', 'berths'), text('host.name', 'quay-2'), text('service.version', '7.3')]
  };
  return ExportTraceServiceRequest.encode(
    ExportTraceServiceRequest.create({ resourceSpans: [{ resource, scopeSpans: [{ spans }] }] })
  ).finish();
}

function exceptionEvent(
  i: number,
  timeUnixNano: object,
  text: (key: string, value: string) => object
): object {
  const message = `berth ${i % 36} is taken until ${i % 24}:${10 + (i % 50)}`;
  const frames = Array.from({ length: 10 }, (_, depth) =>
    depth < 7
      ? `    at step${i % 20}x${depth} (/srv/quillhaven/berths/plan.js:${depth + 40}:9)`
      : `    at next (/srv/quillhaven/node_modules/router/index.js:${depth}:14)`
  );
  return {
    name: 'exception',
    timeUnixNano,
    attributes: [
      text('exception.type', 'BerthTaken'),
      text('exception.message', message),
      text('exception.stacktrace', `BerthTaken: ${message}\n${frames.join('\n')}`)
    ]
  };
}
