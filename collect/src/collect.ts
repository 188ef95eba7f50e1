import type { Config } from './config';
import { watchErrors } from './errors';
import { TrackedLoad } from './page-load';
import { resourceSpan } from './resources';
import { startProfile } from './self-profile';
import { BEACON_BYTES, SENT_BYTES, sendLeaving, sendNow } from './send';
import { watchSteps } from './steps';
import { navigationOf } from './surroundings';
import { taskSpans } from './tasks';
import { currentVisit, type Visit } from './visit';
import { watchVitals } from './vitals';

/** The load is told so long after it is over: what comes with it has come by then. */
const SETTLED_MS = 2000;
/** What an open page goes on doing is told so often. */
const EVERY_MS = 60_000;
/** A page that is never idle is followed from then on. */
const BUSY_MS = 2000;
/** Where this script sends to, behind its own address. */
const OWN = /^collect(?:[?/]|$)/;
/** Frames kept until they are put to the tasks in them. */
const MAX_FRAMES = 200;

/**
 * Follows the loads of this page, and tells of them. While the page loads next to nothing is done: browsers keep what they measure, and it is asked for when
 * there is time.
 */
export function collect(config: Config): void {
  // A tab that was opened in the background was not waited for.
  if (document.visibilityState === 'hidden') return;
  const profiler = startProfile(config);
  let load = new TrackedLoad(config, navigationOf(documentEntry()), activationMs());
  watchSteps((event) => load.addEvent(event));
  watchErrors((event) => load.addEvent(event));
  let gather = (): void => undefined;
  const follow = once(() => {
    gather = watchBrowser(config, () => load);
    watchVitals((vital) => load.addVital(vital));
  });
  whenIdle(follow);

  /** The document itself: not of a page that was kept. */
  const addDocument = once(() => {
    const entry = documentEntry();
    if (!entry) return;
    load.addSpans([resourceSpan(entry, load.originMs)]);
    if (entry.loadEventEnd > 0) load.loadedMs = Math.max(0, entry.loadEventEnd - load.originMs);
  });
  /** Asked for as late as can be: storage is slow at first. */
  let visit: Visit | undefined;
  const nextPart = (maxBytes: number): string | null => {
    visit ??= currentVisit(config.share);
    if (!visit.isTold) return null;
    follow();
    addDocument();
    gather();
    return load.takePart(visit.id, maxBytes);
  };
  const tellNow = async (): Promise<boolean> => {
    const text = nextPart(SENT_BYTES);
    return text !== null && sendNow(config, 'collect', text);
  };
  const tellLeaving = (): void => {
    const text = nextPart(BEACON_BYTES);
    if (text !== null) sendLeaving(config, text);
  };
  const tellLoad = async (): Promise<void> => {
    const { traceId } = load;
    const trace = await profiler?.stop();
    // A profile is taken of a load that is known.
    if ((await tellNow()) && trace)
      await sendNow(config, `collect/profile/${traceId}`, JSON.stringify(trace));
  };

  whenLoaded(() => setTimeout(() => whenIdle(() => void tellLoad()), SETTLED_MS));
  setInterval(() => {
    if (load.waiting > 0 && document.visibilityState === 'visible') void tellNow();
  }, EVERY_MS);
  // Not while the event is captured: the vitals’ own listeners are called then, and their last word is in it.
  addEventListener('visibilitychange', () => {
    if (document.visibilityState === 'hidden') tellLeaving();
  });
  addEventListener('pagehide', tellLeaving);
  addEventListener('pageshow', ({ persisted, timeStamp }) => {
    // A page that was kept is shown again: somebody waited, though nothing was fetched.
    if (!persisted) return;
    load = new TrackedLoad(config, 'restored', timeStamp);
    visit = undefined;
  });
}

/** The same, done the first time only. */
function once(work: () => void): () => void {
  let isDone = false;
  return () => {
    if (isDone) return;
    isDone = true;
    work();
  };
}

function whenIdle(work: () => void): void {
  if ('requestIdleCallback' in window) requestIdleCallback(work, { timeout: BUSY_MS });
  else setTimeout(work, 0);
}

const documentEntry = (): PerformanceNavigationTiming | undefined =>
  performance.getEntriesByType('navigation')[0] as PerformanceNavigationTiming | undefined;

/** When a page that was made ready beforehand was shown; 0 for all others. */
const activationMs = (): number =>
  (documentEntry() as { activationStart?: number } | undefined)?.activationStart ?? 0;

function whenLoaded(then: () => void): void {
  if (document.readyState === 'complete') then();
  else addEventListener('load', then);
}

/** Follows resources and long tasks. @returns what puts all there is into the load */
function watchBrowser(config: Config, load: () => TrackedLoad): () => void {
  let frames: PerformanceEntry[] = [];
  let tasks: PerformanceEntry[] = [];
  const takeAll = [
    observe('long-animation-frame', (entries) => (frames = [...frames, ...entries].slice(-MAX_FRAMES))),
    observe('longtask', (entries) => tasks.push(...entries)),
    observe('resource', (entries) =>
      load().addSpans(
        (entries as PerformanceResourceTiming[])
          .filter(({ name }) => /^https?:/.test(name) && !isOwn(config, name))
          .map((entry) => resourceSpan(entry, load().originMs))
      )
    )
  ];
  return () => {
    for (const take of takeAll) take();
    // Frames come after the tasks in them: both are put together as late as can be.
    load().addSpans(taskSpans(tasks, frames, load().originMs));
    [tasks, frames] = [[], []];
  };
}

const isOwn = ({ to }: Config, address: string): boolean =>
  address.startsWith(to) && OWN.test(address.slice(to.length));

/** Follows entries of a type, also those there are already. @returns what hands over those that wait */
function observe(type: string, take: (entries: PerformanceEntryList) => unknown): () => void {
  if (!PerformanceObserver.supportedEntryTypes.includes(type)) return () => undefined;
  const observer = new PerformanceObserver((list) => take(list.getEntries()));
  observer.observe({ type, buffered: true });
  return () => take(observer.takeRecords());
}
