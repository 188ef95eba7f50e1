import { RUN_KEY } from '@tromix/core/load/spans';
import { maskText } from '@tromix/core/mask/text';
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
const minuteOf = (ms: number): number => Math.floor(ms / 60_000);

/** Who sends spans, kept in memory. */
export class Senders {
  readonly #byKey = new Map<string, Noted>();

  /** Notes a batch that was stored. */
  note(spans: readonly Pick<Span, 'resource'>[], nowMs: number): void {
    const counts = new Map<Resource, number>();
    for (const { resource } of spans) counts.set(resource, (counts.get(resource) ?? 0) + 1);
    // A load run is no service: its view says what it sends.
    for (const [resource, count] of counts)
      if (!resource.attributes.has(RUN_KEY)) this.#add(resource, count, nowMs);
  }

  #add({ key, service, host, release, pid }: Resource, count: number, nowMs: number): void {
    const known = this.#byKey.get(key);
    const sender: Noted = known ?? {
      service: maskText(service, 'name'),
      host: maskText(host, 'name'),
      release: maskText(release, 'name'),
      pid,
      firstMs: nowMs,
      lastMs: nowMs,
      lastBatch: 0,
      spans: 0,
      minute: minuteOf(nowMs),
      counting: 0,
      before: 0
    };
    turn(sender, nowMs);
    sender.lastBatch = count;
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
