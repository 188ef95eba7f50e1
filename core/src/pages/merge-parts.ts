import { MAX_ERRORS, MAX_RESOURCES, MAX_STEPS, MAX_TASKS } from './from-spans';
import type { PageLoad } from './page-load';

/** A load as far as some of its parts tell it. */
export interface ToldLoad {
  load: PageLoad;
  /** The greatest number of a part among them. */
  part: number;
}

/**
 * What two parts of a load tell together, in whichever order they come, and however often: what both tell stands once, and what goes on (vitals, the
 * largest paint) is as the later part tells it.
 */
export function mergeParts(one: ToldLoad, other: ToldLoad): ToldLoad {
  const [earlier, later] = one.part <= other.part ? [one, other] : [other, one];
  const [a, b] = [earlier.load, later.load];
  const load: PageLoad = {
    ...b,
    // By whichever took less time to come.
    atUs: Math.min(a.atUs, b.atUs),
    vitals: { ...a.vitals, ...b.vitals },
    largest: b.largest ?? a.largest,
    elements: { ...a.elements, ...b.elements },
    loadedMs: b.loadedMs ?? a.loadedMs,
    resources: union(a.resources, b.resources, MAX_RESOURCES, ({ startMs, method, url }) => [
      startMs,
      method,
      url
    ]),
    tasks: union(a.tasks, b.tasks, MAX_TASKS, ({ startMs, endMs }) => [startMs, endMs]),
    steps: union(a.steps, b.steps, MAX_STEPS, ({ atMs, kind, label }) => [atMs, kind, label]),
    errors: union(a.errors, b.errors, MAX_ERRORS, ({ atMs, type, message }) => [atMs, type, message]),
    leftOut: Math.max(a.leftOut, b.leftOut)
  };
  return { load, part: later.part };
}

/** Both lists, each thing once, as many as are kept. */
function union<T>(a: readonly T[], b: readonly T[], most: number, keyOf: (one: T) => unknown[]): T[] {
  const known = new Set(a.map((one) => JSON.stringify(keyOf(one))));
  return [...a, ...b.filter((one) => !known.has(JSON.stringify(keyOf(one))))].slice(0, most);
}
