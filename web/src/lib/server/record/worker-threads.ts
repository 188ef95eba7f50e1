import * as v from 'valibot';
import { cutText, wellFormed } from '@tromix/core/text/well-formed';
import type { Inspector } from './inspector';
import { profileIn } from './profile-reply';

/** A thread takes as long to write its profile out as the process does. */
const STOP_MS = 120_000;
const ANSWER_MS = 10_000;
/** Programs start some threads for each core; more are not sampled. */
const MAX_WORKERS = 64;

const text = v.pipe(
  v.string(),
  v.transform((given) => wellFormed(cutText(given, 300)))
);
const Attached = v.object({
  method: v.literal('NodeWorker.attachedToWorker'),
  params: v.object({
    sessionId: v.string(),
    workerInfo: v.object({ workerId: text, url: text })
  })
});
const Detached = v.object({
  method: v.literal('NodeWorker.detachedFromWorker'),
  params: v.object({ sessionId: v.string() })
});
const Received = v.object({
  method: v.literal('NodeWorker.receivedMessageFromWorker'),
  params: v.object({ sessionId: v.string(), message: v.string() })
});

export interface ThreadProfile {
  name: string;
  /** As V8 gave it, JSON; null where the thread ended before. */
  profile: string | null;
}

interface Worker {
  sessionId: string;
  name: string;
  /** Whether it is sampled: some refuse. */
  begun: Promise<boolean>;
  gone: boolean;
}

/**
 * The worker threads of a process, sampled together with its main thread: those there are, and those that start meanwhile. One that ends before the
 * recording does takes its samples with it. Source: the inspector protocol of Node.js, domain `NodeWorker`.
 */
export class WorkerThreads {
  readonly #inspector: Inspector;
  readonly #interval: number;
  readonly #workers: Worker[] = [];
  readonly #waiting = new Map<string, (reply: string | null) => void>();
  #next = 1;

  /** @param interval microseconds between samples */
  constructor(inspector: Inspector, interval: number) {
    this.#inspector = inspector;
    this.#interval = interval;
    inspector.on((event) => this.#hear(event));
  }

  /** Begins with all there are. Runtimes that do not know worker threads have none. */
  async start(): Promise<void> {
    await this.#inspector.send('NodeWorker.enable', { waitForDebuggerOnStart: false }).catch(() => undefined);
    await Promise.all(this.#workers.map(({ begun }) => begun));
  }

  /** Ends it. @returns what each thread did that was sampled */
  async stop(): Promise<ThreadProfile[]> {
    const found = await Promise.all(
      this.#workers.map(async ({ sessionId, name, begun }) => {
        if (!(await begun)) return [];
        const reply = await this.#ask(sessionId, 'Profiler.stop', {}, STOP_MS);
        return [{ name, profile: reply === null ? null : profileIn(reply) }];
      })
    );
    return found.flat();
  }

  #hear(event: string): void {
    // Other events may be large: they are not parsed for nothing.
    if (!/^\s*\{\s*"method"\s*:\s*"NodeWorker\./.test(event)) return;
    const parsed: unknown = JSON.parse(event);
    const attached = v.safeParse(Attached, parsed);
    if (attached.success) return this.#attach(attached.output.params);
    const detached = v.safeParse(Detached, parsed);
    if (detached.success) return this.#detach(detached.output.params.sessionId);
    const received = v.safeParse(Received, parsed);
    if (!received.success) return;
    const { sessionId, message } = received.output.params;
    const id = /^\s*\{\s*"id"\s*:\s*(\d+)/.exec(message)?.[1];
    this.#waiting.get(`${sessionId} ${id}`)?.(
      /^\s*\{\s*"id"\s*:\s*\d+\s*,\s*"error"/.test(message) ? null : message
    );
  }

  /** It ended: it answers nothing more. */
  #detach(sessionId: string): void {
    for (const worker of this.#workers) if (worker.sessionId === sessionId) worker.gone = true;
    for (const [key, settle] of [...this.#waiting]) if (key.startsWith(`${sessionId} `)) settle(null);
  }

  #attach({ sessionId, workerInfo: { workerId, url } }: v.InferOutput<typeof Attached>['params']): void {
    if (this.#workers.length >= MAX_WORKERS) return;
    const file = url.slice(Math.max(url.lastIndexOf('/'), url.lastIndexOf('\\')) + 1);
    this.#workers.push({
      sessionId,
      name: `worker ${workerId}${file ? `, ${file}` : ''}`,
      begun: this.#begin(sessionId),
      gone: false
    });
  }

  async #begin(sessionId: string): Promise<boolean> {
    for (const [method, params] of [
      ['Profiler.enable', {}],
      ['Profiler.setSamplingInterval', { interval: this.#interval }],
      ['Profiler.start', {}]
    ] as const)
      if ((await this.#ask(sessionId, method, params, ANSWER_MS)) === null) return false;
    return true;
  }

  /** @returns the reply as text; null where the thread says no, does not answer in time, or is gone */
  #ask(sessionId: string, method: string, params: object, withinMs: number): Promise<string | null> {
    if (this.#workers.some((worker) => worker.sessionId === sessionId && worker.gone))
      return Promise.resolve(null);
    const id = this.#next++;
    const key = `${sessionId} ${id}`;
    return new Promise((resolve) => {
      const settle = (reply: string | null): void => {
        clearTimeout(late);
        this.#waiting.delete(key);
        resolve(reply);
      };
      const late = setTimeout(() => settle(null), withinMs);
      this.#waiting.set(key, settle);
      const message = JSON.stringify({ id, method, params });
      this.#inspector
        .send('NodeWorker.sendMessageToWorker', { sessionId, message })
        .catch(() => settle(null));
    });
  }
}
