import { Client, type Dispatcher } from 'undici';
import type { Fault } from '@tromix/core/load/samples';
import { refusedTarget, type Target } from './targets';

/** One HTTP exchange: a request, and what came of it. */
export interface Exchange {
  /** 0 where there was no answer. */
  status: number;
  /** Of the answer's body, as it came over the wire. */
  bytes: number;
  fault: Fault;
  /** `performance.now()` of the answer’s last byte, or of what ended it. */
  endedMs: number;
}

export interface HttpRequest {
  method: string;
  url: URL;
  /** Names and values in turn. */
  headers: readonly string[];
  body: string;
}

/** Longer answers are not read to their end. */
const MAX_ANSWER_BYTES = 64 * 1024 * 1024;
/** Redirects followed one after another (WHATWG Fetch allows 20; people who test an address rarely want more than these). */
const MAX_REDIRECTS = 5;
const REDIRECTS = new Set([301, 302, 303, 307, 308]);
/** Meant for one server: another does not get them (RFC 9110, 15.4). */
const ONE_SERVER = /^(?:authorization|cookie|proxy-authorization)$/i;

export interface ClientOptions {
  timeoutSeconds: number;
  followRedirects: boolean;
  targets: readonly Target[];
}

/** What is under way of one exchange. */
interface UnderWay {
  /** `performance.now()` at which it has taken too long. */
  dueMs: number;
  giveUp: (fault: Fault) => void;
}
/** How exactly the time limit of a request is kept. */
const LOOK_EVERY_MS = 20;

/** Sends requests over connections that stay open, as a browser's do. */
export class HttpClient {
  readonly #options: ClientOptions;
  readonly #connections: Connections;
  /** One timer for all: a timer and a listener for each request would cost as much as sending it. */
  readonly #underWay = new Set<UnderWay>();
  readonly #look: NodeJS.Timeout;

  constructor(options: ClientOptions) {
    this.#options = options;
    this.#connections = new Connections(options.timeoutSeconds);
    this.#look = setInterval(() => {
      const now = performance.now();
      for (const { dueMs, giveUp } of this.#underWay) if (dueMs <= now) giveUp('timeout');
    }, LOOK_EVERY_MS);
  }

  /** Never rejects: what goes wrong is a fault. */
  async send(request: HttpRequest): Promise<Exchange> {
    const dueMs = performance.now() + this.#options.timeoutSeconds * 1000;
    let asked = request;
    for (let hop = 0; ; hop++) {
      const { exchange, location } = await this.#exchange(asked, dueMs);
      if (location === '' || exchange.fault !== '' || !this.#options.followRedirects) return exchange;
      if (hop === MAX_REDIRECTS) return { ...exchange, fault: 'redirects-without-end' };
      if (!URL.canParse(location, asked.url.href)) return exchange;
      const url = new URL(location, asked.url);
      if (refusedTarget(url.href, this.#options.targets)) return { ...exchange, fault: 'redirect-elsewhere' };
      asked = redirectedTo(url, asked, exchange.status);
    }
  }

  /** Ends what is under way. */
  stop(): void {
    for (const { giveUp } of this.#underWay) giveUp('reset');
  }

  close(): Promise<void> {
    clearInterval(this.#look);
    return this.#connections.close();
  }

  /** One exchange, and where it redirects to; '' for nowhere. */
  #exchange(
    { method, url, headers, body }: HttpRequest,
    dueMs: number
  ): Promise<{ exchange: Exchange; location: string }> {
    const connection = this.#connections.take(url.origin);
    return new Promise((resolve) => {
      let status = 0;
      let bytes = 0;
      let location = '';
      let controller: Dispatcher.DispatchController | undefined;
      const end = (fault: Fault): void => {
        if (!this.#underWay.delete(underWay)) return;
        const endedMs = performance.now();
        this.#connections.giveBack(url.origin, connection);
        resolve({ exchange: { status, bytes, fault, endedMs }, location });
      };
      const underWay: UnderWay = {
        dueMs,
        giveUp: (fault) => {
          end(fault);
          controller?.abort(new Error(fault));
        }
      };
      this.#underWay.add(underWay);
      connection.dispatch(
        {
          origin: url.origin,
          path: url.pathname + url.search,
          method: method as Dispatcher.HttpMethod,
          headers: headers as string[],
          body: body || null
        },
        {
          onRequestStart: (started) => {
            controller = started;
            if (!this.#underWay.has(underWay)) started.abort(new Error('too late'));
          },
          onResponseStart(_, statusCode, answered) {
            status = statusCode;
            if (REDIRECTS.has(status)) location = first(answered.location);
          },
          onResponseData(_, chunk) {
            bytes += chunk.length;
            if (bytes > MAX_ANSWER_BYTES) underWay.giveUp('answer-too-large');
          },
          onResponseEnd() {
            end('');
          },
          onResponseError(_, error) {
            end(faultOf(error));
          }
        }
      );
    });
  }
}

/**
 * Connections by origin, one for each request under way. The one that was used last is taken first, so that no more of them are busy than are needed, and
 * taking one costs the same however many there are.
 */
class Connections {
  readonly #idle = new Map<string, Client[]>();
  readonly #all = new Set<Client>();
  readonly #timeoutMs: number;

  constructor(timeoutSeconds: number) {
    this.#timeoutMs = timeoutSeconds * 1000;
  }

  take(origin: string): Client {
    const idle = this.#idle.get(origin)?.pop();
    if (idle) return idle;
    // The limit is on the whole exchange; undici's own ones are coarse.
    const client = new Client(origin, {
      pipelining: 1,
      connect: { timeout: this.#timeoutMs },
      headersTimeout: 0,
      bodyTimeout: 0
    });
    this.#all.add(client);
    return client;
  }

  giveBack(origin: string, client: Client): void {
    const idle = this.#idle.get(origin);
    if (idle) idle.push(client);
    else this.#idle.set(origin, [client]);
  }

  async close(): Promise<void> {
    await Promise.all(Array.from(this.#all, (client) => client.destroy()));
  }
}

const first = (value: string | string[] | undefined): string =>
  (Array.isArray(value) ? value[0] : value) ?? '';

/** What is asked for next: after 303, and by custom after 301 and 302 to a POST, without the body (RFC 9110, 15.4). */
function redirectedTo(
  url: URL,
  { method, url: from, headers, body }: HttpRequest,
  status: number
): HttpRequest {
  const asGet = status === 303 || (status <= 302 && method === 'POST');
  const elsewhere = url.origin !== from.origin;
  const kept: string[] = [];
  for (let i = 0; i < headers.length; i += 2)
    if (!(elsewhere && ONE_SERVER.test(headers[i])) && !(asGet && /^content-/i.test(headers[i])))
      kept.push(headers[i], headers[i + 1]);
  return { url, method: asGet && method !== 'HEAD' ? 'GET' : method, headers: kept, body: asGet ? '' : body };
}

const FAULTS_BY_CODE: Record<string, Fault> = {
  ECONNREFUSED: 'refused',
  ENOTFOUND: 'unknown-host',
  EAI_AGAIN: 'unknown-host',
  EHOSTUNREACH: 'unreachable',
  ENETUNREACH: 'unreachable',
  EADDRNOTAVAIL: 'unreachable',
  ETIMEDOUT: 'timeout',
  UND_ERR_CONNECT_TIMEOUT: 'timeout'
};

function faultOf(error: Error): Fault {
  const { code = '', errors } = error as NodeJS.ErrnoException & { errors?: Error[] };
  // Where a name has several addresses each is tried.
  if (errors && errors.length > 0) return faultOf(errors[0]);
  if (code in FAULTS_BY_CODE) return FAULTS_BY_CODE[code];
  if (/^HPE_/.test(code) || error.name === 'HTTPParserError') return 'not-http';
  if (/TLS|CERT|SSL|EPROTO|SIGNATURE|ISSUER/.test(code)) return 'tls';
  return 'reset';
}
