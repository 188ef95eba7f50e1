import { randomBytes } from 'node:crypto';

const EVERY_MS = 500;
const attribute = (key: string, value: string) => ({ key, value: { stringValue: value } });

/** One request of the berths with two statements, which ends now. */
function request(): object {
  const end = BigInt(Date.now()) * 1_000_000n;
  const traceId = randomBytes(16).toString('hex');
  const spanId = randomBytes(8).toString('hex');
  const at = (ms: number): string => String(end - BigInt(ms) * 1_000_000n);
  const statement = (from: number, to: number) => ({
    traceId,
    spanId: randomBytes(8).toString('hex'),
    parentSpanId: spanId,
    name: 'SELECT berths',
    kind: 3,
    startTimeUnixNano: at(from),
    endTimeUnixNano: at(to),
    attributes: [
      attribute('db.system.name', 'postgresql'),
      attribute('db.query.text', 'SELECT id FROM berths WHERE quay = ?')
    ]
  });
  return {
    resource: {
      attributes: [
        attribute('service.name', 'berths'),
        attribute('service.version', '7.3'),
        attribute('host.name', 'quay-3')
      ]
    },
    scopeSpans: [
      {
        spans: [
          {
            traceId,
            spanId,
            name: 'POST /calls/:id/berth',
            kind: 2,
            startTimeUnixNano: at(450),
            endTimeUnixNano: at(0),
            attributes: [
              attribute('http.request.method', 'POST'),
              attribute('http.route', '/calls/:id/berth')
            ]
          },
          statement(400, 210),
          statement(200, 20)
        ]
      }
    ]
  };
}

/** Sends a request twice a second, as a live service would, so that open views are brought up to date. @returns ends it */
export function sendTraffic(url: string): () => void {
  const timer = setInterval(() => {
    void fetch(`${url}/v1/traces`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ resourceSpans: [request()] })
    }).catch(() => undefined);
  }, EVERY_MS);
  return () => clearInterval(timer);
}
