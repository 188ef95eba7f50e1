import { onCLS, onFCP, onINP, onLCP, onTTFB, type MetricWithAttribution } from 'web-vitals/attribution';
import type { Config } from './config';
import { watchErrors } from './errors';
import { TrackedLoad } from './page-load';
import { resourceSpan } from './resources';
import { startProfile } from './self-profile';
import { BEACON_BYTES, SENT_BYTES, sendLeaving, sendNow } from './send';
import { watchSteps } from './steps';
import { navigationOf } from './surroundings';
import { taskSpans } from './tasks';
import { currentVisit } from './visit';

/** The load is told so long after it is over: what comes with it has come by then. */
const SETTLED_MS = 2000;
/** What an open page goes on doing is told so often. */
const EVERY_MS = 60_000;
/** Where this script sends to, behind its own address. */
const OWN = /^collect(?:[?/]|$)/;
/** Frames kept until they are put to the tasks in them. */
const MAX_FRAMES = 200;

/** Follows the loads of this page, and tells of them. */
export function collect(config: Config): void {
  // A tab that was opened in the background was not waited for.
  if (document.visibilityState === 'hidden') return;
  const visit = currentVisit(config.share);
  if (!visit.isTold) return;
  const profiler = startProfile(config);
  let load = new TrackedLoad(config, visit.id, navigationOf(documentEntry()), activationMs());
  const gather = watchBrowser(config, () => load);
  watchVitals((metric) => load.addVital(metric));
  watchSteps((event) => load.addEvent(event));
  watchErrors((event) => load.addEvent(event));

  /** The document itself: once, and not of a page that was kept. */
  let addDocument = (): void => {
    addDocument = () => undefined;
    const entry = documentEntry();
    if (!entry) return;
    load.addSpans([resourceSpan(entry, load.originMs)]);
    if (entry.loadEventEnd > 0) load.loadedMs = Math.max(0, entry.loadEventEnd - load.originMs);
  };
  const nextPart = (maxBytes: number): string | null => {
    addDocument();
    gather();
    return load.takePart(maxBytes);
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

  whenLoaded(() => setTimeout(() => void tellLoad(), SETTLED_MS));
  setInterval(() => {
    if (load.waiting > 0 && document.visibilityState === 'visible') void tellNow();
  }, EVERY_MS);
  // After the vitals’ own listeners, so that their last word is in it.
  addEventListener('visibilitychange', () => {
    if (document.visibilityState === 'hidden') tellLeaving();
  });
  addEventListener('pagehide', tellLeaving);
  addEventListener('pageshow', ({ persisted, timeStamp }) => {
    // A page that was kept is shown again: somebody waited, though nothing was fetched.
    if (persisted) load = new TrackedLoad(config, currentVisit(config.share).id, 'restored', timeStamp);
  });
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

function watchVitals(add: (metric: MetricWithAttribution) => void): void {
  onTTFB(add);
  onFCP(add);
  // As far as it has come when the load is told; the last word is said as the page is left.
  onLCP(add, { reportAllChanges: true });
  onINP(add);
  onCLS(add);
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
          .filter(
            ({ name }) =>
              /^https?:/.test(name) && !(name.startsWith(config.to) && OWN.test(name.slice(config.to.length)))
          )
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

/** Follows entries of a type, also those there are already. @returns what hands over those that wait */
function observe(type: string, take: (entries: PerformanceEntryList) => unknown): () => void {
  if (!PerformanceObserver.supportedEntryTypes.includes(type)) return () => undefined;
  const observer = new PerformanceObserver((list) => take(list.getEntries()));
  observer.observe({ type, buffered: true });
  return () => take(observer.takeRecords());
}
