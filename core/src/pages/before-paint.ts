import { pathOf, templateFile } from '../trace/path-template';
import { chainToPaint, type ChainStep } from './chain';
import type { PageLoad, ResourceKind } from './page-load';

/** Something that stands on the way to the largest paint of many loads. */
export interface BeforePaint {
  what: ResourceKind | 'task' | 'nothing';
  /** A resource without its origin, query and what differs from build to build; a task by its function; '' for nothing that is known. */
  name: string;
  /** Loads on whose way it stands, and their share of those that had a largest paint. */
  loads: number;
  share: number;
  /** Its time on the way, milliseconds, on average over all loads that had a largest paint. */
  meanMs: number;
}

/** What is on the way to the largest paint of some loads of a page, what costs most first. */
export function beforePaint(loads: readonly PageLoad[]): BeforePaint[] {
  const sums = new Map<string, { what: BeforePaint['what']; name: string; loads: number; ms: number }>();
  let painted = 0;
  for (const load of loads) {
    const chain = chainToPaint(load);
    if (chain.length === 0) continue;
    painted++;
    const own = new Map<string, { what: BeforePaint['what']; name: string; ms: number }>();
    for (const step of chain) {
      const named = nameOf(load, step);
      const key = `${named.what} ${named.name}`;
      const known = own.get(key) ?? { ...named, ms: 0 };
      known.ms += step.toMs - step.fromMs;
      own.set(key, known);
    }
    for (const [key, { what, name, ms }] of own) {
      const sum = sums.get(key) ?? { what, name, loads: 0, ms: 0 };
      sum.loads++;
      sum.ms += ms;
      sums.set(key, sum);
    }
  }
  return [...sums.values()]
    .map(({ what, name, loads: count, ms }) => ({
      what,
      name,
      loads: count,
      share: count / painted,
      meanMs: ms / painted
    }))
    .sort((a, b) => b.meanMs - a.meanMs || (a.name < b.name ? -1 : 1));
}

function nameOf({ resources, tasks }: PageLoad, step: ChainStep): Pick<BeforePaint, 'what' | 'name'> {
  if (step.of === 'nothing') return { what: 'nothing', name: '' };
  if (step.of === 'task') {
    const { function: name, script } = tasks[step.index];
    return { what: 'task', name: name || resourceName(script) };
  }
  const { kind, url } = resources[step.index];
  return { what: kind, name: resourceName(url) };
}

/** The same file of another build, or another origin, has the same name. */
export const resourceName = (url: string): string => (url === '' ? '' : templateFile(pathOf(url)));
