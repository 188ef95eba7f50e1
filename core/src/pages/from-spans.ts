import { maskUrl } from '../mask/url';
import { pathOf, templatePath } from '../trace/path-template';
import type { RawSpan } from '../calls/mask';
import { numberOf, textOf } from '../trace/span';
import type {
  LargestPaint,
  LongTask,
  Navigation,
  PageError,
  PageLoad,
  PageResource,
  PageStep,
  ResourcePhases,
  StepKind
} from './page-load';
import { kindByInitiator } from './resource-kind';
import { spanOf } from './server-timing';
import { VITALS, type Vital, type Vitals } from './vitals';
import {
  ERROR,
  ERROR_EVENT,
  LOAD,
  MOMENTS,
  RESOURCE,
  ROOT_SPAN,
  STEP,
  STEP_EVENT,
  TASK,
  TASK_SPAN,
  VITAL,
  VITAL_EVENT
} from './wire';

/** A page with more resources is told by its first: none has so many for a person to wait for. */
export const MAX_RESOURCES = 5000;
export const MAX_TASKS = 1000;
export const MAX_STEPS = 1000;
export const MAX_ERRORS = 100;
/** A stack of a browser is cut beyond so many characters. */
const MAX_STACK = 4000;
/** Beyond an hour nobody waits: such a time is damage. */
const MAX_MS = 3_600_000;
/** A page may lie open for days, and be used: steps, and what they fetch, may be so late. */
export const MAX_OPEN_MS = 7 * 86_400_000;
/** Shifts beyond are damage (the vital is a sum of shares of the window, each of 1 at the most). */
const MAX_SHIFT = 1000;

const NAVIGATIONS: readonly Navigation[] = [
  'navigate',
  'reload',
  'back-forward',
  'restored',
  'prerendered',
  'in-page'
];
const STEP_KINDS: readonly StepKind[] = ['click', 'submit', 'navigate'];
const DEVICES: readonly PageLoad['device'][] = ['phone', 'tablet', 'desktop'];

/** Whether a span is the root of a page load. */
export const isPageLoad = ({ name, parentId }: Pick<RawSpan, 'name' | 'parentId'>): boolean =>
  name === ROOT_SPAN && parentId === '';

/**
 * A page load from the spans of its trace. A browser's clock may be off by hours: all times are taken from its start, and the start from who received it.
 * What is no time, no size and no vital is left out.
 * @param spans of one trace, with its root
 * @param atUs when it began by the receiver's clock, epoch microseconds
 * @returns null where no root of a page load is among them
 */
export function loadFromSpans(spans: readonly RawSpan[], atUs: number): PageLoad | null {
  const root = spans.find(isPageLoad);
  if (!root) return null;
  const a = root.attributes;
  const url = maskUrl(textOf(a, LOAD.url));
  const since = (span: RawSpan): number =>
    (span.startUs - root.startUs) / 1000 + (span.startNs - root.startNs) / 1e6;
  const inside = spans.filter(
    (span) => span !== root && isWhileOpen(since(span)) && isTime(span.durationNs / 1e6)
  );
  const tasks = inside.filter(({ name }) => name === TASK_SPAN);
  const resources = inside.filter((span) => span.name !== TASK_SPAN && span.attributes.has(RESOURCE.url));
  const loadedMs = numberOf(a, LOAD.loadedMs);
  const leftOut = numberOf(a, LOAD.leftOut) ?? 0;
  const untold =
    Math.max(0, resources.length - MAX_RESOURCES) +
    Math.max(0, tasks.length - MAX_TASKS) +
    Math.max(0, leftOut);
  return {
    traceId: root.traceId,
    atUs,
    page: templatePath(pathOf(url)),
    url,
    service: root.resource.service,
    release: root.resource.release,
    device: oneOf(DEVICES, textOf(a, LOAD.device), ''),
    connection: textOf(a, LOAD.connection).slice(0, 20),
    country: textOf(a, LOAD.country).slice(0, 2),
    session: textOf(a, LOAD.session).slice(0, 64),
    source: 'visitor',
    navigation: oneOf(NAVIGATIONS, textOf(a, LOAD.navigation), 'navigate'),
    vitals: vitalsOf(root),
    largest: largestOf(root),
    elements: elementsOf(root),
    loadedMs: loadedMs !== undefined && isTime(loadedMs) ? loadedMs : null,
    resources: resources.slice(0, MAX_RESOURCES).map((span) => resourceOf(span, since(span))),
    tasks: tasks.slice(0, MAX_TASKS).map((span) => taskOf(span, since(span))),
    steps: stepsOf(root),
    errors: errorsOf(root),
    leftOut: Math.min(untold, Number.MAX_SAFE_INTEGER)
  };
}

const isTime = (ms: number): boolean => ms >= 0 && ms <= MAX_MS;
const isWhileOpen = (ms: number): boolean => ms >= 0 && ms <= MAX_OPEN_MS;
const oneOf = <Value extends string>(known: readonly Value[], asked: string, usual: Value): Value =>
  known.find((one) => one === asked) ?? usual;

/** Of a vital that is told several times the last counts: it goes on until the page is left. */
function vitalsOf({ events }: RawSpan): Vitals {
  const vitals: Vitals = {};
  for (const { name, attributes } of events) {
    if (name !== VITAL_EVENT) continue;
    const vital = textOf(attributes, VITAL.name).toLowerCase() as Vital;
    const value = numberOf(attributes, VITAL.value);
    if (!VITALS.includes(vital) || value === undefined) continue;
    if (value >= 0 && value <= (vital === 'cls' ? MAX_SHIFT : MAX_MS)) vitals[vital] = value;
  }
  return vitals;
}

function largestOf({ events }: RawSpan): LargestPaint | null {
  const told = events.findLast(
    ({ name, attributes }) => name === VITAL_EVENT && textOf(attributes, VITAL.name).toLowerCase() === 'lcp'
  );
  const atMs = told && numberOf(told.attributes, VITAL.value);
  if (!told || atMs === undefined || !isTime(atMs)) return null;
  return {
    atMs,
    element: textOf(told.attributes, VITAL.element).slice(0, 200),
    url: maskUrl(textOf(told.attributes, VITAL.url))
  };
}

function elementsOf({ events }: RawSpan): PageLoad['elements'] {
  const elements: PageLoad['elements'] = {};
  for (const { name, attributes } of events) {
    if (name !== VITAL_EVENT) continue;
    const vital = textOf(attributes, VITAL.name).toLowerCase();
    const element = textOf(attributes, VITAL.element).slice(0, 200);
    if ((vital === 'inp' || vital === 'cls') && element) elements[vital] = element;
  }
  return elements;
}

function stepsOf({ events }: RawSpan): PageStep[] {
  return events
    .filter(({ name, offsetNs }) => name === STEP_EVENT && isWhileOpen(offsetNs / 1e6))
    .slice(0, MAX_STEPS)
    .map(({ attributes, offsetNs }) => ({
      atMs: offsetNs / 1e6,
      kind: oneOf(STEP_KINDS, textOf(attributes, STEP.kind), 'click'),
      label: textOf(attributes, STEP.label).slice(0, 100)
    }));
}

function errorsOf({ events }: RawSpan): PageError[] {
  return events
    .filter(({ name, offsetNs }) => name === ERROR_EVENT && isWhileOpen(offsetNs / 1e6))
    .slice(0, MAX_ERRORS)
    .map(({ attributes, offsetNs }) => ({
      atMs: offsetNs / 1e6,
      type: textOf(attributes, ERROR.type).slice(0, 200) || 'Error',
      message: textOf(attributes, ERROR.message).slice(0, 1000),
      stack: textOf(attributes, ERROR.stack).slice(0, MAX_STACK)
    }));
}

function resourceOf({ attributes: a, events, durationNs }: RawSpan, startMs: number): PageResource {
  const url = maskUrl(textOf(a, RESOURCE.url));
  const bytes = numberOf(a, RESOURCE.transferBytes);
  const unused = numberOf(a, RESOURCE.unusedShare);
  const blocking = textOf(a, RESOURCE.blocks);
  return {
    kind: kindByInitiator(textOf(a, RESOURCE.initiator), url),
    method: textOf(a, RESOURCE.method).slice(0, 20),
    url,
    startMs,
    endMs: startMs + durationNs / 1e6,
    phases: phasesOf(events, startMs),
    transferBytes: bytes !== undefined && bytes >= 0 && bytes < 2 ** 40 ? bytes : null,
    status: numberOf(a, RESOURCE.status) ?? 0,
    blocks: blocking === '' ? null : blocking === 'blocking',
    ...spanOf(textOf(a, RESOURCE.answeredBy)),
    unusedShare: unused !== undefined && unused >= 0 && unused <= 1 ? unused : null
  };
}

/** null where no moment is told: another origin keeps them to itself. */
function phasesOf(events: RawSpan['events'], startMs: number): ResourcePhases | null {
  const phases: ResourcePhases = {
    lookupStartMs: null,
    lookupEndMs: null,
    connectStartMs: null,
    secureStartMs: null,
    connectEndMs: null,
    requestStartMs: null,
    responseStartMs: null
  };
  let isTold = false;
  for (const { name, offsetNs } of events) {
    if (!Object.hasOwn(MOMENTS, name) || !isTime(offsetNs / 1e6)) continue;
    phases[MOMENTS[name as keyof typeof MOMENTS]] = startMs + offsetNs / 1e6;
    isTold = true;
  }
  return isTold ? phases : null;
}

const taskOf = ({ attributes, durationNs }: RawSpan, startMs: number): LongTask => ({
  startMs,
  endMs: startMs + durationNs / 1e6,
  script: maskUrl(textOf(attributes, TASK.script)),
  function: textOf(attributes, TASK.function).slice(0, 200)
});
