import WebSocket from 'ws';
import { cutText, wellFormed } from '@tromix/core/text/well-formed';
import { addressOf, type Place } from './addresses';

/** Answers to one command must come within this time, but for those that end a recording. */
const ANSWER_MS = 10_000;
const LIST_MS = 1500;
/** A profile of ten minutes is a tenth of this; larger answers are no profiles. */
const MAX_REPLY_BYTES = 128 * 1024 * 1024;
/** The list names a handful of processes. */
const MAX_LIST_BYTES = 256 * 1024;
const MAX_LISTED = 64;

/** The inspector cannot be reached, or says no. */
export class InspectorError extends Error {}

interface Listed {
  type?: string;
  webSocketDebuggerUrl?: string;
  title?: string;
  url?: string;
}

/** Processes that listen at a place (the `/json/list` endpoint of the Chrome DevTools Protocol); none where nothing answers. */
export async function listAt(place: Place): Promise<{ title: string; url: string; path: string }[]> {
  const list = (await askedAt(place, 'list')) as (Listed | null)[];
  if (!Array.isArray(list)) return [];
  return list.slice(0, MAX_LISTED).flatMap((listed) => {
    const { webSocketDebuggerUrl, title = '', url = '', type = '' } = listed ?? {};
    const path = pathIn(webSocketDebuggerUrl);
    // What a browser lists is no process.
    return path && !BROWSER_TYPES.has(String(type))
      ? [{ title: wellFormed(cutText(String(title), 500)), url: wellFormed(cutText(String(url), 500)), path }]
      : [];
  });
}

const BROWSER_TYPES = new Set([
  'page',
  'iframe',
  'worker',
  'service_worker',
  'background_page',
  'other',
  'tab'
]);

/** The browser itself that listens at a place (`/json/version`), by its path. @throws InspectorError where none does */
export async function browserAt(place: Place): Promise<string> {
  const version = (await askedAt(place, 'version').catch(() => null)) as Listed | null;
  const path = pathIn(version?.webSocketDebuggerUrl);
  if (path?.startsWith('/devtools/browser')) return path;
  throw new InspectorError(
    `No browser with an open debugging port answers at ${addressOf(place)}. Start Chromium with --remote-debugging-port=${place.port}.`
  );
}

async function askedAt(place: Place, what: 'list' | 'version'): Promise<unknown> {
  const response = await fetch(`http://${addressOf(place)}/json/${what}`, {
    redirect: 'error',
    signal: AbortSignal.timeout(LIST_MS)
  });
  return JSON.parse(await limitedText(response));
}

/** Only the path is taken: where it leads is where it was asked, whatever the answer says. */
const pathIn = (address: unknown): string | undefined =>
  /^wss?:\/\/[^/]+(\/[\w./-]+)$/.exec(String(address ?? ''))?.[1];

/** The text of an answer, as long as it ends: who answers there is not known yet. */
async function limitedText(response: Response): Promise<string> {
  const parts: Uint8Array[] = [];
  let bytes = 0;
  for await (const part of response.body as unknown as AsyncIterable<Uint8Array>) {
    bytes += part.length;
    if (bytes > MAX_LIST_BYTES) throw new InspectorError('What answers there sends a list without end.');
    parts.push(part);
  }
  return Buffer.concat(parts).toString('utf8');
}

/** A connection to one process's inspector (Chrome DevTools Protocol over WebSocket). */
export class Inspector {
  readonly #socket: WebSocket;
  #next = 1;
  /** Why the connection was ended from this side. */
  #broken: InspectorError | undefined;
  readonly #waiting = new Map<number, { done: (text: string) => void; fail: (cause: Error) => void }>();
  readonly #listeners = new Set<(text: string) => void>();
  /** Settles when the connection is gone. */
  readonly gone: Promise<void>;

  private constructor(socket: WebSocket) {
    this.#socket = socket;
    this.gone = new Promise((resolve) => socket.once('close', () => resolve()));
    socket.on('message', (data) => this.#hear(data));
    socket.on('error', (cause) => {
      this.#broken ??= new InspectorError(`The connection to the inspector broke: ${cause.message}.`);
      socket.terminate();
    });
    socket.once('close', () => {
      for (const { fail } of this.#waiting.values())
        fail(this.#broken ?? new InspectorError('The process ended, or closed its inspector.'));
      this.#waiting.clear();
    });
  }

  static async open(place: Place): Promise<Inspector> {
    let path: string | undefined;
    try {
      [{ path } = { path: undefined }] = await listAt(place);
    } catch {
      path = undefined;
    }
    if (!path)
      throw new InspectorError(
        `No process with an open inspector answers at ${addressOf(place)}. Start it with node --inspect, or send it SIGUSR1.`
      );
    return Inspector.at(place, path);
  }

  /** A connection to what listens at a path. @throws InspectorError */
  static async at(place: Place, path: string): Promise<Inspector> {
    const socket = new WebSocket(`ws://${addressOf(place)}${path}`, {
      perMessageDeflate: false,
      maxPayload: MAX_REPLY_BYTES,
      followRedirects: false,
      handshakeTimeout: ANSWER_MS
    });
    await new Promise<void>((resolve, reject) => {
      socket.once('open', () => resolve());
      socket.once('error', (cause) => reject(new InspectorError(`The inspector refused: ${cause.message}.`)));
    });
    return new Inspector(socket);
  }

  /**
   * Sends a command. @returns the reply as text: profiles are large, and are not parsed here.
   * @param sessionId of a target of a browser; '' for the process itself
   * @throws InspectorError
   */
  send(method: string, params: object = {}, withinMs = ANSWER_MS, sessionId = ''): Promise<string> {
    const id = this.#next++;
    return new Promise((resolve, reject) => {
      const late = setTimeout(() => {
        this.#waiting.delete(id);
        reject(new InspectorError(`The process did not answer within ${withinMs / 1000} s.`));
      }, withinMs);
      const settle = (): void => clearTimeout(late);
      this.#waiting.set(id, {
        done: (text) => {
          settle();
          resolve(text);
        },
        fail: (cause) => {
          settle();
          reject(cause);
        }
      });
      if (this.#socket.readyState !== WebSocket.OPEN)
        this.#waiting.get(id)!.fail(new InspectorError('The process ended, or closed its inspector.'));
      else this.#socket.send(JSON.stringify({ id, method, params, ...(sessionId && { sessionId }) }));
    });
  }

  /** Tells every event of the process, as text: some are large. @returns what ends that */
  on(listen: (text: string) => void): () => void {
    this.#listeners.add(listen);
    return () => void this.#listeners.delete(listen);
  }

  /** The value of an expression in the process, as JSON; undefined where it throws. */
  async evaluate<T>(expression: string): Promise<T | undefined> {
    const reply = jsonOr(
      await this.send('Runtime.evaluate', {
        expression: `JSON.stringify(${expression})`,
        includeCommandLineAPI: true,
        returnByValue: true
      })
    ) as { result?: { result?: { value?: string } } } | null;
    const value = reply?.result?.result?.value;
    if (typeof value !== 'string') return undefined;
    return (jsonOr(value) ?? undefined) as T | undefined;
  }

  close(): void {
    this.#socket.terminate();
  }

  /** What comes may be anything: a fault in it ends this connection, never the thread in which others record too. */
  #hear(data: WebSocket.RawData): void {
    try {
      this.#take(textOf(data));
    } catch (cause) {
      this.#broken = new InspectorError(
        `The process sent something that is no answer of an inspector: ${(cause as Error).message}.`
      );
      this.#socket.terminate();
    }
  }

  #take(text: string): void {
    const id = Number(/^\s*\{\s*"id"\s*:\s*(\d+)/.exec(text)?.[1]);
    const waiting = this.#waiting.get(id);
    if (!waiting) {
      if (Number.isNaN(id)) for (const listen of this.#listeners) listen(text);
      return;
    }
    this.#waiting.delete(id);
    const failed = /^\s*\{\s*"id"\s*:\s*\d+\s*,\s*"error"\s*:/.test(text);
    if (failed) waiting.fail(new InspectorError(messageIn(text)));
    else waiting.done(text);
  }
}

/** JSON; null for anything else. */
function jsonOr(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return null;
  }
}

function messageIn(text: string): string {
  const { error } = JSON.parse(text) as { error?: { message?: unknown } };
  return wellFormed(cutText(String(error?.message ?? 'it gave no reason'), 500));
}

const textOf = (data: WebSocket.RawData): string =>
  Array.isArray(data) ? Buffer.concat(data).toString('utf8') : Buffer.from(data as Buffer).toString('utf8');
