import { setMaxListeners } from 'node:events';
import { setImmediate as nextTurn, setTimeout as sleep } from 'node:timers/promises';
import { drawOne, fill, hasRange } from '@tromix/core/load/draw';
import { Draws } from '@tromix/core/stats/draws';
import { isOpen, LIMITS, type LoadPlan, type Step } from '@tromix/core/load/plan';
import type { LoadEnd } from '@tromix/core/load/run-file';
import { FAULTS, type Sample } from '@tromix/core/load/samples';
import { arrivalAt, userStart } from '@tromix/core/load/schedule';
import { traceOf, traceparentOf } from '@tromix/core/load/trace-ids';
import { HttpClient, type HttpRequest } from './exchange';
import type { Target } from './targets';

export interface SendOptions {
  /** Left half of the ids of the traces it causes; '' names none: its requests begin traces of their own, like anybody's. */
  key: string;
  plan: LoadPlan;
  /** Places that may be sent to besides the loopback range. */
  targets: readonly Target[];
  /** When it begins, epoch microseconds: samples count from then. */
  onBegin?: (atUs: number) => void;
  /** Each sample as it ends. */
  onSample: (sample: Sample) => void;
  signal: AbortSignal;
}

/** How a run came to its end. */
export interface Ended {
  end: Exclude<LoadEnd, 'cut-off'>;
  /** How long it ran, microseconds. */
  endUs: number;
}

/** More unanswered requests than this are no load any more, but a queue in this machine's memory. */
const MAX_UNDER_WAY = 10_000;

/** So many are sent before answers are looked at. */
const BURST = 16;

/** Timers are late by up to so much, on machines that share their cores. */
const TIMERS_LATE_US = 4000;
/** Gaps of this length are waited out to the end: no more than a fifth of the time is spent so. */
const EXACT_FROM_US = 5 * TIMERS_LATE_US;

/** Answers that come meanwhile are read so much later at most. */
const NAP_US = 100;
const NOBODY_WAKES = new Int32Array(new SharedArrayBuffer(4));

/** Sends a run's requests, as its plan says, and ends by itself. Faults of the server are samples; it rejects for none of them. */
export async function sendRun(options: SendOptions): Promise<Ended> {
  const sender = new Sender(options);
  return sender.run();
}

/** What of a step need not be worked out for each request. */
interface PreparedStep {
  /** Null where numbers are drawn into it. */
  url: URL | null;
  /** Names and values in turn. */
  headers: string[];
}

class Sender {
  readonly #plan: LoadPlan;
  readonly #options: SendOptions;
  readonly #client: HttpClient;
  readonly #weights: number[];
  readonly #steps: PreparedStep[];
  readonly #stopping = new AbortController();
  #end: Ended['end'] = 'done';
  #startMs = 0;
  #sent = 0;
  #underWay = 0;
  #samples = 0;
  #failedInRow = 0;

  constructor(options: SendOptions) {
    this.#options = options;
    this.#plan = options.plan;
    this.#client = new HttpClient({ ...options.plan, targets: options.targets });
    this.#weights = options.plan.steps.map(({ weight }) => weight);
    this.#steps = options.plan.steps.map((step) => ({
      url: hasRange(step.url) ? null : new URL(step.url),
      headers: step.headers.flat()
    }));
  }

  async run(): Promise<Ended> {
    const stop = (): void => this.#stop('stopped');
    // Every user who waits listens for the end of the run.
    setMaxListeners(0, this.#stopping.signal);
    this.#options.signal.addEventListener('abort', stop);
    if (this.#options.signal.aborted) stop();
    this.#startMs = performance.now();
    this.#options.onBegin?.(Math.round((performance.timeOrigin + this.#startMs) * 1000));
    if (isOpen(this.#plan)) await this.#arrivals();
    else await Promise.all(Array.from({ length: this.#plan.users }, (_, user) => this.#user(user)));
    this.#options.signal.removeEventListener('abort', stop);
    const endUs = this.#elapsedUs();
    await this.#client.close();
    return { end: this.#end, endUs };
  }

  #stop(end: Ended['end']): void {
    if (this.#stopping.signal.aborted) return;
    this.#end = end;
    this.#stopping.abort();
    this.#client.stop();
  }

  get #stopped(): boolean {
    return this.#stopping.signal.aborted;
  }

  /** No visit begins after the plan's length. */
  #mayBegin(done: number, atUs: number): boolean {
    const { loops, seconds } = this.#plan;
    return !this.#stopped && (loops === 0 || done < loops) && (seconds === 0 || atUs < seconds * 1e6);
  }

  #elapsedUs(): number {
    return (performance.now() - this.#startMs) * 1000;
  }

  /** Waits until a moment after the start; not at all for one that has passed. */
  async #until(atUs: number): Promise<void> {
    const waitMs = (atUs - this.#elapsedUs()) / 1000;
    if (waitMs > 0) await sleep(waitMs, undefined, { signal: this.#stopping.signal }).catch(() => undefined);
  }

  /** The same to the fraction of a millisecond, where there is time: timers are some milliseconds late, which nobody can tell from the server's time. */
  async #exactlyUntil(atUs: number): Promise<void> {
    if (atUs - this.#elapsedUs() < EXACT_FROM_US) return this.#until(atUs);
    await this.#until(atUs - TIMERS_LATE_US);
    // Thousands of turns would make garbage whose collection takes longer than what is waited for: between two of them the thread sleeps a little.
    await new Promise<void>((resolve) => {
      const look = (): void => {
        const leftUs = atUs - this.#elapsedUs();
        if (this.#stopped || leftUs <= 0) return resolve();
        if (leftUs > 2 * NAP_US) Atomics.wait(NOBODY_WAKES, 0, 0, NAP_US / 1000);
        setImmediate(look);
      };
      look();
    });
  }

  /** A user of a closed model: does it all, waits, and does it again. */
  async #user(user: number): Promise<void> {
    const draws = new Draws(this.#plan.seed + user);
    let atUs = userStart(user, this.#plan) * 1e6;
    for (let loop = 0; this.#mayBegin(loop, atUs); loop++) {
      await this.#until(atUs);
      if (!this.#mayBegin(loop, this.#elapsedUs())) return;
      atUs = (await this.#visit(user, atUs, draws)) + this.#pauseUs(draws);
    }
  }

  #pauseUs(draws: Draws): number {
    const { pauseSeconds, pauseSpread } = this.#plan;
    return pauseSeconds * (1 + pauseSpread * (2 * draws.share() - 1)) * 1e6;
  }

  /** An open model: visits begin when they are due, whatever became of those before. */
  async #arrivals(): Promise<void> {
    const visits = new Set<Promise<number>>();
    for (let n = 0; ; n++) {
      const atUs = arrivalAt(n, this.#plan) * 1e6;
      if (!this.#mayBegin(n, atUs)) break;
      await this.#exactlyUntil(atUs);
      // A burst of what is overdue must not keep answers from being read.
      if (n % BURST === 0) await nextTurn();
      if (this.#stopped) break;
      if (this.#underWay >= MAX_UNDER_WAY) {
        this.#stop('gave-up');
        break;
      }
      const visit: Promise<number> = this.#visit(n, atUs, new Draws(this.#plan.seed + n));
      visits.add(visit);
      void visit.then(() => visits.delete(visit));
    }
    await Promise.all(visits);
  }

  /** One loop over the steps. @returns when it was over, microseconds after the start. */
  async #visit(user: number, beginUs: number, draws: Draws): Promise<number> {
    const { steps, order } = this.#plan;
    const chosen = order === 'one' ? [drawOne(this.#weights, draws)] : steps.keys();
    let atUs = beginUs;
    for (const step of chosen) {
      const { together } = steps[step];
      if (together === 1) await this.#request(step, user, atUs, draws);
      else await Promise.all(Array.from({ length: together }, () => this.#request(step, user, atUs, draws)));
      if (this.#stopped) break;
      atUs = this.#elapsedUs();
    }
    return atUs;
  }

  async #request(index: number, user: number, intendedUs: number, draws: Draws): Promise<void> {
    const step = this.#plan.steps[index];
    const number = this.#sent++;
    const { key } = this.#options;
    const { url, headers } = this.#steps[index];
    const request: HttpRequest = {
      method: step.method,
      url: url ?? new URL(fill(step.url, draws)),
      headers: key === '' ? headers : [...headers, 'traceparent', traceparentOf(traceOf(key, number))],
      body: fill(step.body, draws)
    };
    this.#underWay++;
    const sentUs = this.#elapsedUs();
    const exchange = await this.#client.send(request);
    const endedUs = (exchange.endedMs - this.#startMs) * 1000;
    this.#underWay--;
    // What was cut short by the end of the run says nothing of the server.
    if (this.#stopped) return;
    const fault = exchange.fault || (isExpected(step, exchange.status) ? '' : 'status');
    this.#note({
      number,
      step: index,
      user,
      intendedUs,
      lateUs: Math.max(0, sentUs - intendedUs),
      durationUs: endedUs - sentUs,
      status: exchange.status,
      bytes: exchange.bytes,
      fault: FAULTS.indexOf(fault)
    });
  }

  #note(sample: Sample): void {
    this.#options.onSample(sample);
    this.#failedInRow = sample.fault === 0 ? 0 : this.#failedInRow + 1;
    const { giveUpAfter } = this.#plan;
    if (giveUpAfter > 0 && this.#failedInRow >= giveUpAfter) this.#stop('gave-up');
    if (++this.#samples >= LIMITS.samples) this.#stop('full');
  }
}

const isExpected = ({ expect }: Step, status: number): boolean =>
  expect.length > 0 ? expect.includes(status) : status < 400;
