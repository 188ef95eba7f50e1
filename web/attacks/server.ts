import { fork, type ChildProcess } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { SERVER_ENV } from '../server-env.mjs';

const SERVER = path.resolve(import.meta.dirname, '../server.mjs');

export interface Answer {
  status: number;
  text: string;
  headers: Headers;
}

/** A built server of its own, in a process of its own. */
export class AttackedServer {
  readonly url: string;
  readonly process: ChildProcess;
  readonly port: number;
  /** Everything it wrote to standard error. */
  readonly #said: string[];

  constructor(process: ChildProcess, port: number, said: string[]) {
    this.process = process;
    this.port = port;
    this.url = `http://127.0.0.1:${port}`;
    this.#said = said;
  }

  get stderr(): string {
    return this.#said.join('');
  }

  async ask(place: string, init: RequestInit = {}): Promise<Answer> {
    const response = await fetch(this.url + place, { redirect: 'manual', ...init });
    return { status: response.status, text: await response.text(), headers: response.headers };
  }

  /** Sends OTLP as JSON. */
  send(
    signal: 'traces' | 'logs' | 'metrics',
    body: object | string,
    headers: Record<string, string> = {}
  ): Promise<Answer> {
    return this.ask(`/v1/${signal}`, {
      method: 'POST',
      headers: { 'content-type': 'application/json', ...headers },
      body: typeof body === 'string' ? body : JSON.stringify(body)
    });
  }

  upload(content: string | Uint8Array<ArrayBuffer>, query = ''): Promise<Answer> {
    return this.ask(`/api/evidence?${query}`, { method: 'POST', body: content });
  }

  /** The most memory it has taken so far, bytes (`VmHWM`, proc_pid_status(5)). */
  peakMemory(): number {
    const status = readFileSync(`/proc/${this.process.pid}/status`, 'utf8');
    return Number(/VmHWM:\s+(\d+) kB/.exec(status)![1]) * 1024;
  }

  /** Waits until a question about the application gives what is wanted. How long is patience, not a promise: machines are slow at times. */
  async until(place: string, wanted: (text: string) => boolean, withinMs = 150_000): Promise<string> {
    const end = Date.now() + withinMs;
    for (;;) {
      const { text } = await this.ask(place);
      if (wanted(text)) return text;
      if (Date.now() > end)
        throw new Error(`${place} never gave what was wanted; last: ${text.slice(0, 2000)}`);
      await new Promise((resolve) => setTimeout(resolve, 250));
    }
  }

  async stop(signal: NodeJS.Signals = 'SIGTERM'): Promise<void> {
    if (this.process.exitCode !== null || this.process.signalCode !== null) return;
    const gone = new Promise((resolve) => this.process.once('exit', resolve));
    this.process.kill(signal);
    await gone;
  }
}

export const makeFolder = (): string => mkdtempSync(path.join(os.tmpdir(), 'tromix-attack-'));
export const removeFolder = (folder: string): void => rmSync(folder, { recursive: true, force: true });

const environment = (data: string, env: Record<string, string>): NodeJS.ProcessEnv => {
  const own = Object.fromEntries(
    Object.entries(process.env).filter(([name]) => !/^(?:TROMIX_|VITEST|NODE_OPTIONS)/.test(name))
  );
  return { ...own, ...SERVER_ENV, PORT: '0', TROMIX_DATA: data, TROMIX_SETTLE_MS: '50', ...env };
};

/** Starts the server on a data folder. It must start. */
export async function startServer(data: string, env: Record<string, string> = {}): Promise<AttackedServer> {
  const { child, said } = spawn(data, env);
  const port = await new Promise<number>((resolve, reject) => {
    child.once('message', (message: { ready: number }) => resolve(message.ready));
    child.once('exit', (code) => reject(new Error(`The server did not start (${code}): ${said.join('')}`)));
  });
  return new AttackedServer(child, port, said);
}

/** Starts the server where it must refuse. @returns its exit code and what it said. */
export async function refusedStart(
  data: string,
  env: Record<string, string> = {}
): Promise<{ code: number; said: string }> {
  const { child, said } = spawn(data, env);
  const code = await new Promise<number>((resolve, reject) => {
    child.once('exit', (exit) => resolve(exit ?? -1));
    child.once('message', () => {
      child.kill('SIGKILL');
      reject(new Error('The server started, though it must not.'));
    });
  });
  return { code, said: said.join('') };
}

function spawn(data: string, env: Record<string, string>): { child: ChildProcess; said: string[] } {
  const said: string[] = [];
  const child = fork(SERVER, [], { silent: true, execArgv: [], env: environment(data, env) });
  child.stderr!.on('data', (part: Buffer) => said.push(part.toString()));
  child.stdout!.resume();
  return { child, said };
}

/** OTLP of one trace. Times in nanoseconds as text. */
export interface SentSpan {
  trace: number;
  span: number;
  parent?: number;
  name?: string;
  start?: bigint;
  lengthNs?: bigint;
  kind?: number;
}
const hex = (value: number, length: number): string => value.toString(16).padStart(length, '0');
export const traceIdOf = (trace: number): string => hex(trace, 32);

export function tracesOf(spans: readonly SentSpan[], service = 'berths'): object {
  const now = BigInt(Date.now()) * 1_000_000n;
  return {
    resourceSpans: [
      {
        resource: { attributes: [{ key: 'service.name', value: { stringValue: service } }] },
        scopeSpans: [
          {
            spans: spans.map(
              ({ trace, span, parent, name = 'work', start = now, lengthNs = 1_000_000n, kind = 2 }) => ({
                traceId: traceIdOf(trace),
                spanId: hex(span, 16),
                parentSpanId: parent ? hex(parent, 16) : '',
                name,
                kind,
                startTimeUnixNano: String(start),
                endTimeUnixNano: String(start + lengthNs)
              })
            )
          }
        ]
      }
    ]
  };
}
