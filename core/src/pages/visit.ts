import { plural } from '../text/format';
import { pathOf, templatePath } from '../trace/path-template';
import { named } from './load-rows';
import type { PageLoad } from './page-load';

/** What happened in a visit. Milliseconds since the epoch, by the receiver's clock. */
export interface VisitEvent {
  kind: 'load' | 'step' | 'call' | 'error';
  fromMs: number;
  toMs: number;
  /** Place of its load in the list. */
  load: number;
  label: string;
  /** Of calls: places of the resources in their load. */
  resources: readonly number[];
  /** Place of the step or the load that it came of in the list of events; −1 where nobody knows. */
  cause: number;
  failed: boolean;
}

/** What is fetched so soon after a step is taken to be caused by it; browsers do not tell. */
export const CAUSED_MS = 1000;

const STEP_WORDS = { click: 'clicked', submit: 'sent', navigate: 'went to' } as const;

/**
 * A visit in order of time: its page loads, what the person did, what was fetched after a load was over, and errors. Calls that are alike and of one cause are
 * one event.
 */
export function visitEvents(loads: readonly PageLoad[]): VisitEvent[] {
  const own = loads.flatMap((load, index) => [
    loadEvent(load, index),
    ...stepEvents(load, index),
    ...callEvents(load, index),
    ...errorEvents(load, index)
  ]);
  own.sort((a, b) => a.fromMs - b.fromMs || RANKS[a.kind] - RANKS[b.kind]);
  return own.map((event) => ({ ...event, cause: causeOf(event, own) }));
}

/** At one moment what is done stands before what comes of it. */
const RANKS: Record<VisitEvent['kind'], number> = { load: 0, step: 1, call: 2, error: 3 };

const startMs = ({ atUs }: PageLoad): number => atUs / 1000;
/** When a load was over: what was fetched later is no part of it. */
export const loadEndMs = ({ loadedMs, largest }: PageLoad): number =>
  Math.max(loadedMs ?? 0, largest?.atMs ?? 0);

function loadEvent(load: PageLoad, index: number): VisitEvent {
  const fromMs = startMs(load);
  return {
    kind: 'load',
    fromMs,
    toMs: fromMs + loadEndMs(load),
    load: index,
    label: load.page,
    resources: [],
    cause: -1,
    failed: load.resources.some(({ kind, status }) => kind === 'document' && status >= 400)
  };
}

const stepEvents = (load: PageLoad, index: number): VisitEvent[] =>
  load.steps.map(({ atMs, kind, label }) => ({
    kind: 'step',
    fromMs: startMs(load) + atMs,
    toMs: startMs(load) + atMs,
    load: index,
    label: `${STEP_WORDS[kind]} ${label || 'something without a label'}`,
    resources: [],
    cause: -1,
    failed: false
  }));

function callEvents(load: PageLoad, index: number): VisitEvent[] {
  const steps = load.steps.map(({ atMs }) => atMs);
  const groups = new Map<string, VisitEvent & { resources: number[] }>();
  const over = loadEndMs(load);
  load.resources.forEach(({ kind, method, url, startMs: from, endMs: to, status }, i) => {
    if (from < over || kind !== 'data') return;
    const step = steps.findLast((at) => at <= from && from - at <= CAUSED_MS);
    const label = named(method, templatePath(pathOf(url)));
    // Without a step each is by itself.
    const key = `${step ?? `at ${i}`} ${label}`;
    const known = groups.get(key);
    if (known) {
      known.resources.push(i);
      known.fromMs = Math.min(known.fromMs, startMs(load) + from);
      known.toMs = Math.max(known.toMs, startMs(load) + to);
      known.failed ||= status >= 400;
      return;
    }
    groups.set(key, {
      kind: 'call',
      fromMs: startMs(load) + from,
      toMs: startMs(load) + to,
      load: index,
      label,
      resources: [i],
      cause: -1,
      failed: status >= 400
    });
  });
  return [...groups.values()].map((event) => ({
    ...event,
    label:
      event.resources.length > 1 ? `${event.label}, ${plural(event.resources.length, 'time')}` : event.label
  }));
}

const errorEvents = (load: PageLoad, index: number): VisitEvent[] =>
  load.errors.map(({ atMs, type, message }) => ({
    kind: 'error',
    fromMs: startMs(load) + atMs,
    toMs: startMs(load) + atMs,
    load: index,
    label: `${type}: ${message}`,
    resources: [],
    cause: -1,
    failed: true
  }));

/** The last step of the same load so soon before; of a page load the last step of the load before it. */
function causeOf(event: VisitEvent, events: readonly VisitEvent[]): number {
  if (event.kind === 'step') return -1;
  const sameLoad = event.kind === 'load' ? event.load - 1 : event.load;
  return events.findLastIndex(
    ({ kind, load, fromMs }) =>
      kind === 'step' && load === sameLoad && fromMs <= event.fromMs && event.fromMs - fromMs <= CAUSED_MS
  );
}
