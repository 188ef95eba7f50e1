import WebSocket from 'ws';
import { addressOf, type Place } from './addresses';

/** Answers to one command must come within this time, but for those that end a recording. */
const ANSWER_MS = 10_000;
const LIST_MS = 1500;
const MAX_REPLY_BYTES = 1024 * 1024 * 1024;

/** The inspector cannot be reached, or says no. */
export class InspectorError extends Error {}

interface Listed {
  webSocketDebuggerUrl?: string;
  title?: string;
  url?: string;
}

/** Processes that listen at a place (the `/json/list` endpoint of the Chrome DevTools Protocol); none where nothing answers. */
export async function listAt(place: Place): Promise<{ title: string; url: string; path: string }[]> {
  const response = await fetch(`http://${addressOf(place)}/json/list`, {
    redirect: 'error',
    signal: AbortSignal.timeout(LIST_MS)
  });
  const list = (await response.json()) as Listed[];
  if (!Array.isArray(list)) return [];
  return list.flatMap(({ webSocketDebuggerUrl, title = '', url = '' }) => {
    // Only the path is taken: where it leads is where it was asked, whatever the answer says.
    const path = /^wss?:\/\/[^/]+(\/[\w./-]+)$/.exec(webSocketDebuggerUrl ?? '')?.[1];
    return path ? [{ title: String(title), url: String(url), path }] : [];
  });
}

/** A connection to one process's inspector (Chrome DevTools Protocol over WebSocket). */
export class Inspector {
  readonly #socket: WebSocket;
  #next = 1;
  readonly #waiting = new Map<number, { done: (text: string) => void; fail: (cause: Error) => void }>();
  /** Told every event of the process. */
  onevent: (text: string) => void = () => undefined;
  /** Settles when the connection is gone. */
  readonly gone: Promise<void>;

  private constructor(socket: WebSocket) {
    this.#socket = socket;
    this.gone = new Promise((resolve) => socket.once('close', () => resolve()));
    socket.on('message', (data) => this.#hear(textOf(data)));
    socket.on('error', () => socket.terminate());
    socket.once('close', () => {
      for (const { fail } of this.#waiting.values())
        fail(new InspectorError('The process ended, or closed its inspector.'));
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

  /** Sends a command. @returns the reply as text: profiles are large, and are not parsed here. @throws InspectorError */
  send(method: string, params: object = {}, withinMs = ANSWER_MS): Promise<string> {
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
      else this.#socket.send(JSON.stringify({ id, method, params }));
    });
  }

  /** The value of an expression in the process, as JSON; undefined where it throws. */
  async evaluate<T>(expression: string): Promise<T | undefined> {
    const reply = JSON.parse(
      await this.send('Runtime.evaluate', {
        expression: `JSON.stringify(${expression})`,
        returnByValue: true
      })
    ) as { result?: { result?: { value?: string } } };
    const value = reply.result?.result?.value;
    return typeof value === 'string' ? (JSON.parse(value) as T) : undefined;
  }

  close(): void {
    this.#socket.terminate();
  }

  #hear(text: string): void {
    const id = Number(/^\s*\{\s*"id"\s*:\s*(\d+)/.exec(text)?.[1]);
    const waiting = this.#waiting.get(id);
    if (!waiting) {
      if (Number.isNaN(id)) this.onevent(text);
      return;
    }
    this.#waiting.delete(id);
    const failed = /^\s*\{\s*"id"\s*:\s*\d+\s*,\s*"error"\s*:/.test(text);
    if (failed)
      waiting.fail(new InspectorError((JSON.parse(text) as { error: { message: string } }).error.message));
    else waiting.done(text);
  }
}

const textOf = (data: WebSocket.RawData): string =>
  Array.isArray(data) ? Buffer.concat(data).toString('utf8') : Buffer.from(data as Buffer).toString('utf8');
