import type { Resource, Span } from '@tromix/core/trace/span';

/** A process that sends spans, since this server started. Times in epoch milliseconds. */
export interface Sender {
  service: string;
  host: string;
  release: string;
  pid: number;
  firstMs: number;
  lastMs: number;
  /** Spans of the last batch, of the last whole minute, and of all. */
  lastBatch: number;
  perMinute: number;
  spans: number;
}

interface Noted extends Omit<Sender, 'perMinute'> {
  /** The minute that is being counted, what it has so far, and what the one before it had. */
  minute: number;
  counting: number;
  before: number;
}

/** More are not listed: the one that has been silent longest goes. */
const MAX_SENDERS = 1000;
/** Spans that arrive so soon after others of the same process are one batch: it is stored in slices. */
const BATCH_MS = 250;

const minuteOf = (ms: number): number => Math.floor(ms / 60_000);

/** Who sends spans, kept in memory. */
export class Senders {
  readonly #byKey = new Map<string, Noted>();

  /** Notes spans that were stored. */
  note(spans: readonly Span[], nowMs: number): void {
    for (let from = 0; from < spans.length;) {
      const { resource } = spans[from];
      let to = from + 1;
      while (to < spans.length && spans[to].resource === resource) to++;
      this.#add(resource, to - from, nowMs);
      from = to;
    }
  }

  #add({ key, service, host, release, pid }: Resource, count: number, nowMs: number): void {
    const known = this.#byKey.get(key);
    const sender: Noted = known ?? {
      service,
      host,
      release,
      pid,
      firstMs: nowMs,
      lastMs: -Infinity,
      lastBatch: 0,
      spans: 0,
      minute: minuteOf(nowMs),
      counting: 0,
      before: 0
    };
    turn(sender, nowMs);
    sender.lastBatch = nowMs - sender.lastMs <= BATCH_MS ? sender.lastBatch + count : count;
    sender.lastMs = nowMs;
    sender.counting += count;
    sender.spans += count;
    // The order of the map is that of the last batches.
    this.#byKey.delete(key);
    this.#byKey.set(key, sender);
    for (const silent of this.#byKey.keys()) {
      if (this.#byKey.size <= MAX_SENDERS) break;
      this.#byKey.delete(silent);
    }
  }

  /** Those that sent, the last one first. */
  list(nowMs: number): Sender[] {
    return [...this.#byKey.values()].reverse().map((sender) => {
      turn(sender, nowMs);
      const { minute, counting, before, ...rest } = sender;
      // In its first minute it has sent for no whole one.
      const young = minute === minuteOf(rest.firstMs);
      return { ...rest, perMinute: young ? counting : before };
    });
  }
}

/** Goes on to the present minute. */
function turn(sender: Noted, nowMs: number): void {
  const minute = minuteOf(nowMs);
  if (minute === sender.minute) return;
  sender.before = minute === sender.minute + 1 ? sender.counting : 0;
  sender.counting = 0;
  sender.minute = minute;
}
