import http from 'node:http';
import { nameRoute, traceParent } from './telemetry';

export interface Call {
  /** Values of the route's `:names`. */
  path: Record<string, string>;
  query: URLSearchParams;
  body: unknown;
}
/** An answer that is no JSON. */
export class Content {
  readonly type: string;
  readonly body: string | Buffer;
  readonly headers: Record<string, string>;

  constructor(type: string, body: string | Buffer, headers: Record<string, string> = {}) {
    this.type = type;
    this.body = body;
    this.headers = headers;
  }
}
export type Handler = (call: Call) => Promise<unknown>;
/** `GET /vessels/:imo` → what answers it. */
export type Routes = Record<string, Handler>;

const MAX_BODY = 1_000_000;

/** Serves JSON, and what is no JSON as such, at the loopback address. A handler that throws answers 500 with its message. */
export function serve(port: number, routes: Routes): Promise<http.Server> {
  const table = Object.entries(routes).map(([name, handler]) => {
    const [method, route] = name.split(' ');
    const names = [...route.matchAll(/:(\w+)/g)].map((found) => found[1]);
    return { method, route, names, handler, pattern: new RegExp(`^${route.replace(/:\w+/g, '([^/]+)')}$`) };
  });
  const server = http.createServer((request, response) => {
    void answer(request, response);
  });
  const answer = async (request: http.IncomingMessage, response: http.ServerResponse): Promise<void> => {
    const url = new URL(request.url ?? '/', 'http://localhost');
    const reply = (status: number, body: unknown): void => {
      const content = body instanceof Content ? body : new Content('application/json', JSON.stringify(body));
      response.writeHead(status, { 'content-type': content.type, ...answeredBy(), ...content.headers });
      response.end(content.body);
    };
    for (const { method, route, names, handler, pattern } of table) {
      const found = request.method === method ? pattern.exec(url.pathname) : null;
      if (!found) continue;
      nameRoute(method, route);
      try {
        const path = Object.fromEntries(names.map((name, i) => [name, decodeURIComponent(found[i + 1])]));
        reply(200, await handler({ path, query: url.searchParams, body: await readBody(request) }));
      } catch (error) {
        reply((error as { status?: number }).status ?? 500, { error: (error as Error).message });
      }
      return;
    }
    reply(404, { error: 'There is nothing at this address.' });
  };
  return new Promise((resolve) => server.listen(port, '127.0.0.1', () => resolve(server)));
}

/** Tells a browser which span answers it, so that its page load and the request behind it are known to belong together. */
function answeredBy(): Record<string, string> {
  const parent = traceParent();
  return parent === '' ? {} : { 'server-timing': `traceparent;desc="${parent}"` };
}

async function readBody(request: http.IncomingMessage): Promise<unknown> {
  let text = '';
  for await (const chunk of request) {
    text += String(chunk);
    if (text.length > MAX_BODY) throw new Error('The body is too large.');
  }
  return text ? JSON.parse(text) : null;
}

const agent = new http.Agent({ keepAlive: true, maxSockets: 64 });

/** Asks another service for JSON. */
export function ask(method: 'GET' | 'POST', url: string, body?: unknown): Promise<unknown> {
  return new Promise((resolve, reject) => {
    const request = http.request(
      url,
      { method, agent, headers: { 'content-type': 'application/json' } },
      (response) => {
        let text = '';
        response.setEncoding('utf8');
        response.on('data', (part: string) => (text += part));
        response.on('end', () => {
          if ((response.statusCode ?? 500) >= 400)
            reject(new Error(`${method} ${url} answered ${response.statusCode}`));
          else resolve(JSON.parse(text));
        });
      }
    );
    request.on('error', reject);
    request.end(body === undefined ? undefined : JSON.stringify(body));
  });
}
