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

/** What begins so soon after a step, or goes on so soon after what came of it, is taken to come of it; browsers do not tell. */
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
  for (const event of own)
    if (event.resources.length > 1) event.label += `, ${plural(event.resources.length, 'time')}`;
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

/** Calls that are alike and follow each other. */
interface CallGroup extends VisitEvent {
  resources: number[];
}

/** Of the load at a place: what was fetched after it was over, in order of time. */
function callEvents(load: PageLoad, index: number): CallGroup[] {
  const begin = startMs(load);
  const over = loadEndMs(load);
  const groups: CallGroup[] = [];
  const later = load.resources
    .map((resource, place) => ({ ...resource, place }))
    .filter(({ kind, startMs: from }) => kind === 'data' && from >= over)
    .sort((a, b) => a.startMs - b.startMs);
  for (const { place, method, url, startMs: from, endMs: to, status } of later) {
    const label = named(method, templatePath(pathOf(url)));
    // One after the other, as in a loop: the next comes of what the one before came of.
    const goesOn = groups.findLast(
      (group) => group.label === label && begin + from - group.toMs <= CAUSED_MS
    );
    if (goesOn) {
      goesOn.resources.push(place);
      goesOn.toMs = Math.max(goesOn.toMs, begin + to);
      goesOn.failed ||= status >= 400;
      continue;
    }
    groups.push({
      kind: 'call',
      fromMs: begin + from,
      toMs: begin + to,
      load: index,
      label,
      resources: [place],
      cause: -1,
      failed: status >= 400
    });
  }
  return groups;
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
