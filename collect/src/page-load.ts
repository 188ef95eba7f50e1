import { LOAD, ROOT_SPAN, VITAL, VITAL_EVENT } from '@tromix/core/pages/wire';
import type { Config } from './config';
import { randomHex } from './hex';
import { exportText, spanText, type SentEvent } from './otlp';
import type { SentSpan } from './resources';
import { connectionOf, deviceOf } from './surroundings';
import type { ToldVital } from './vitals';

/** Told of one load; more of them nobody looks at one by one. */
const MAX_SPANS = 1000;
/** Steps and errors told in one part; a receiver takes 128 events of a span. */
const MAX_EVENTS = 100;

/** One load of the page, and what is known of it and was not sent yet. */
export class TrackedLoad {
  readonly traceId = randomHex(16);
  readonly #rootId = randomHex(8);
  readonly #config: Config;
  readonly #navigation: string;
  /** As it began: a page may go elsewhere by itself, and browsers tell less as it is left. */
  readonly #url = location.href;
  readonly #device = deviceOf();
  readonly #connection = connectionOf();
  /** Where it begins on the browser's clock, milliseconds. */
  readonly originMs: number;
  readonly #vitals = new Map<string, ToldVital>();
  #events: SentEvent[] = [];
  #spans: SentSpan[] = [];
  #taken = 0;
  #leftOut = 0;
  #part = 0;
  #isChanged = true;
  loadedMs: number | undefined;

  constructor(config: Config, navigation: string, originMs: number) {
    this.#config = config;
    this.#navigation = navigation;
    this.originMs = originMs;
  }

  addVital(vital: ToldVital): void {
    this.#vitals.set(vital.name, vital);
    this.#isChanged = true;
  }

  addEvent(event: SentEvent): void {
    if (this.#events.length >= MAX_EVENTS) return;
    this.#events.push({ ...event, atMs: event.atMs - this.originMs });
    this.#isChanged = true;
  }

  addSpans(spans: readonly SentSpan[]): void {
    // What was fetched before the page was shown is not of this load.
    const own = spans.filter(({ startMs }) => startMs >= 0);
    const taken = own.slice(0, Math.max(0, MAX_SPANS - this.#taken));
    this.#taken += taken.length;
    this.#leftOut += own.length - taken.length;
    this.#spans.push(...taken);
    this.#isChanged ||= own.length > 0;
  }

  /** How much waits to be sent. */
  get waiting(): number {
    return this.#spans.length + this.#events.length;
  }

  /** The next part of what it tells, as OTLP in JSON; null where nothing is new. What does not fit into so many bytes is counted as left out. */
  takePart(visit: string, maxBytes: number): string | null {
    if (!this.#isChanged) return null;
    this.#isChanged = false;
    this.#part++;
    const [spans, events] = [this.#spans, this.#events];
    [this.#spans, this.#events] = [[], []];
    const of = {
      traceId: this.traceId,
      parentId: this.#rootId,
      originMs: performance.timeOrigin + this.originMs
    };
    // Lengths are of characters; addresses and names are nearly all ASCII, and the limit has some room.
    let room = maxBytes - this.#rootText(visit, events).length - 1000;
    const texts: string[] = [];
    for (const span of spans) {
      const text = spanText(of, { ...span, kind: 3 });
      room -= text.length + 1;
      if (room >= 0) texts.push(text);
    }
    this.#leftOut += spans.length - texts.length;
    const { service, release } = this.#config;
    return exportText({ 'service.name': service, 'service.version': release }, [
      this.#rootText(visit, events),
      ...texts
    ]);
  }

  #rootText(visit: string, events: readonly SentEvent[]): string {
    const nowMs = performance.now() - this.originMs;
    return spanText(
      { traceId: this.traceId, parentId: '', originMs: performance.timeOrigin + this.originMs },
      {
        id: this.#rootId,
        name: ROOT_SPAN,
        kind: 1,
        startMs: 0,
        endMs: this.loadedMs ?? nowMs,
        attributes: {
          [LOAD.url]: this.#url,
          [LOAD.session]: visit,
          [LOAD.navigation]: this.#navigation,
          [LOAD.device]: this.#device,
          [LOAD.connection]: this.#connection,
          [LOAD.country]: this.#config.country,
          [LOAD.loadedMs]: this.loadedMs,
          [LOAD.part]: this.#part,
          [LOAD.sentMs]: nowMs,
          [LOAD.leftOut]: this.#leftOut
        },
        events: [...this.#vitalEvents(), ...events]
      }
    );
  }

  #vitalEvents(): SentEvent[] {
    return [...this.#vitals.values()].map(({ name, value, element, url }) => ({
      name: VITAL_EVENT,
      atMs: 0,
      attributes: {
        [VITAL.name]: name,
        [VITAL.value]: value,
        [VITAL.element]: element,
        [VITAL.url]: url
      }
    }));
  }
}
