import type { Span } from '@tromix/core/trace/span';

interface RestingTrace {
  spans: Span[];
  firstMs: number;
  lastMs: number;
}

/** Traces taken up after a restart are counted as so many spans, since theirs are not read yet. */
const UNREAD_SPANS = 30;
/** Spans booked in one transaction. */
const BOOK_SLICE = 6000;
/** Spans waiting in memory beyond which those of the oldest traces are let go: booking reads them back from the store. */
const MAX_RESTING = 40_000;
/** A trace that never rests is booked after so many settle times. */
const PATIENCE = 8;

/** Monotonic milliseconds: how long a trace has rested does not hang on what somebody sets the clock to. */
export const monotonicMs = (): number => performance.now();

/** Traces whose spans are stored and that wait to be booked, until no more spans of theirs come. */
export class RestingTraces {
  readonly #settleMs: number;
  readonly #traces = new Map<string, RestingTrace>();
  /** Traces whose spans are in memory, oldest first. */
  readonly #held = new Set<string>();
  #heldSpans = 0;

  /** @param settleMs how long no span of a trace must have come before it is booked */
  constructor(settleMs: number) {
    this.#settleMs = settleMs;
  }

  has(traceId: string): boolean {
    return this.#traces.has(traceId);
  }

  add(traceId: string, spans: readonly Span[]): void {
    const now = monotonicMs();
    let trace = this.#traces.get(traceId);
    if (!trace) this.#traces.set(traceId, (trace = { spans: [], firstMs: now, lastMs: now }));
    for (const span of spans) trace.spans.push(span);
    trace.lastMs = now;
    this.#heldSpans += spans.length;
    if (spans.length > 0) this.#held.add(traceId);
    while (this.#heldSpans > MAX_RESTING) this.#letGo();
  }

  /** How long the trace that came first has waited, milliseconds; 0 for none. */
  oldestMs(nowMs: number): number {
    for (const { firstMs } of this.#traces.values()) return nowMs - firstMs;
    return 0;
  }

  /** Takes the spans of the oldest trace out of memory. They are stored, and the trace still rests. */
  #letGo(): void {
    const [oldest] = this.#held;
    const trace = this.#traces.get(oldest)!;
    this.#held.delete(oldest);
    this.#heldSpans -= trace.spans.length;
    trace.spans = [];
  }

  /**
   * Takes the traces to book now, about one transaction of them.
   * @param busy batches keep coming: only those go that have waited very long. @param all also those that have not rested.
   */
  takeDue(nowMs: number, busy: boolean, all: boolean): Map<string, Span[]> {
    const due = new Map<string, Span[]>();
    let size = 0;
    for (const [traceId, { spans, firstMs, lastMs }] of this.#traces) {
      const impatient = nowMs - firstMs >= this.#settleMs * PATIENCE;
      const rested = !busy && nowMs - lastMs >= this.#settleMs;
      if (!all && !impatient && !rested) continue;
      due.set(traceId, spans);
      this.#traces.delete(traceId);
      if (this.#held.delete(traceId)) this.#heldSpans -= spans.length;
      size += spans.length || UNREAD_SPANS;
      if (size >= BOOK_SLICE) break;
    }
    return due;
  }
}
