import type { PageLoad, PageResource } from './page-load';

/** What a step of the way to the largest paint is: a resource or a task by its place in the load's list, or nothing that is known. */
export type StepOf = { of: 'resource' | 'task'; index: number } | { of: 'nothing' };

/** A step of the way to the largest paint, milliseconds from the start of the navigation. */
export type ChainStep = StepOf & { fromMs: number; toMs: number };

/** Something that may have to be over before something else begins. */
interface Activity {
  step: Exclude<StepOf, { of: 'nothing' }>;
  startMs: number;
  endMs: number;
  /** Of several that end at once the one of the greatest rank is taken. */
  rank: number;
}

/** What begins something else as it ends: fonts and pictures do not, nor does what is not known. */
const RANKS: Partial<Record<PageResource['kind'], number>> = { script: 3, style: 2, data: 1, document: 0 };
const TASK_RANK = 4;
const LARGEST_RANK = 5;

/**
 * The way to the largest paint: from it backwards, each step is what ended last before the next one began, of the document, styles, scripts, data and
 * tasks, and first of all the picture that was painted. Where nothing ended, time is booked to nothing that is known. The steps tile the time from the
 * navigation to the paint. That one thing had to wait for another is inferred from their order, as browsers do not tell it.
 * @returns in order of time; none where there was no largest paint
 */
export function chainToPaint({ largest, resources, tasks }: PageLoad): ChainStep[] {
  if (!largest || largest.atMs <= 0) return [];
  const waiting = activitiesOf(resources, tasks, largest.url);
  const steps: ChainStep[] = [];
  let atMs = largest.atMs;
  while (atMs > 0) {
    const last = lastBefore(waiting, atMs);
    const endMs = last ? Math.min(last.endMs, atMs) : 0;
    if (endMs < atMs) steps.push({ of: 'nothing', fromMs: endMs, toMs: atMs });
    if (!last) break;
    steps.push({ ...last.step, fromMs: Math.max(0, last.startMs), toMs: endMs });
    waiting.delete(last);
    atMs = last.startMs;
  }
  return steps.reverse();
}

function activitiesOf(
  resources: readonly PageResource[],
  tasks: PageLoad['tasks'],
  painted: string
): Set<Activity> {
  const shown = painted === '' ? -1 : resources.findIndex(({ url }) => url === painted);
  const fetched = resources.flatMap(({ kind, startMs, endMs }, index): Activity[] => {
    const rank = index === shown ? LARGEST_RANK : RANKS[kind];
    return rank === undefined ? [] : [{ step: { of: 'resource', index }, startMs, endMs, rank }];
  });
  const ran = tasks.map(({ startMs, endMs }, index): Activity => ({
    step: { of: 'task', index },
    startMs,
    endMs,
    rank: TASK_RANK
  }));
  return new Set([...fetched, ...ran].filter(({ startMs, endMs }) => endMs > Math.max(startMs, 0)));
}

/** What was under way or had ended last before a moment, and began before it. */
function lastBefore(activities: Iterable<Activity>, atMs: number): Activity | null {
  let best: Activity | null = null;
  for (const one of activities) {
    if (one.startMs >= atMs) continue;
    if (best === null) {
      best = one;
      continue;
    }
    const [end, bestEnd] = [Math.min(one.endMs, atMs), Math.min(best.endMs, atMs)];
    if (end > bestEnd || (end === bestEnd && one.rank > best.rank)) best = one;
  }
  return best;
}
