import { createReadStream } from 'node:fs';
import os from 'node:os';
import { Readable } from 'node:stream';
import { endpointFrom, tokenFrom } from './environment';

type Environment = Readonly<Record<string, string | undefined>>;

/** Nobody waits longer for a program to end. */
const CRASH_MS = 3000;
/** A heap dump was asked for: it may take its time. */
const HEAP_DUMP_MS = 5 * 60_000;

/** Hands evidence over to the server. Where none listens, nothing happens. */
export class EvidenceSender {
  readonly #env: Environment;
  readonly #keepDays: number | undefined;

  /** @param env of the program that is run @param keepDays how long what is sent is kept; undefined for the server's own rule */
  constructor(env: Environment, keepDays?: number) {
    this.#env = env;
    this.#keepDays = keepDays;
  }

  sendCrash(body: string, pid: number): Promise<void> {
    return this.#send('process-end.json', pid, body, CRASH_MS);
  }

  sendHeapDump(file: string, pid: number): Promise<void> {
    return this.#send(
      'near-the-limit.heapsnapshot',
      pid,
      Readable.toWeb(createReadStream(file)),
      HEAP_DUMP_MS
    );
  }

  async #send(name: string, pid: number, body: string | ReadableStream, withinMs: number): Promise<void> {
    const told = resourceIn(this.#env.OTEL_RESOURCE_ATTRIBUTES ?? '');
    const query = new URLSearchParams({
      name,
      service: this.#env.OTEL_SERVICE_NAME || told.get('service.name') || '',
      host: told.get('host.name') || os.hostname(),
      release: told.get('service.version') ?? '',
      startedAtUs: String(Date.now() * 1000),
      ...(pid > 0 ? { pid: String(pid) } : {}),
      ...(this.#keepDays === undefined ? {} : { keepDays: String(this.#keepDays) })
    });
    const token = tokenFrom(this.#env);
    try {
      await fetch(`${endpointFrom(this.#env)}/api/evidence?${query}`, {
        method: 'POST',
        body,
        duplex: 'half',
        headers: {
          'content-type': 'application/octet-stream',
          ...(token ? { authorization: `Bearer ${token}` } : {})
        },
        signal: AbortSignal.timeout(withinMs)
      } as RequestInit);
    } catch {
      // The program ends as ever.
    }
  }
}

const resourceIn = (text: string): Map<string, string> =>
  new Map(
    text
      .split(',')
      .filter((pair) => pair.includes('='))
      .map((pair): [string, string] => {
        const at = pair.indexOf('=');
        return [pair.slice(0, at).trim(), decodeURIComponent(pair.slice(at + 1))];
      })
  );
