import { eachSide, type Sides } from '../sides';
import { resourceName } from './before-paint';
import { chainToPaint, type ChainStep } from './chain';
import type { PageLoad, ResourceKind } from './page-load';
import { VITALS, type Vital } from './vitals';

/** What stands on the way to the largest paint, by what it is. */
export type WayPart = ResourceKind | 'task' | 'nothing';

/** A file of either side, matched by its name without ids and hashes of builds; those of one name together. */
export interface ComparedFile {
  kind: ResourceKind;
  name: string;
  /** null on a side that does not have it. */
  files: Sides<{ count: number; bytes: number | null; endMs: number } | null>;
}

export interface ComparedLoads {
  vitals: { vital: Vital; values: Sides<number | null> }[];
  /** The way to the largest paint in parts, milliseconds: on each side they add up to it. None where a side has no paint. */
  way: { part: WayPart; ms: Sides<number> }[];
  files: ComparedFile[];
  tasks: Sides<{ count: number; ms: number }>;
}

const PARTS: readonly WayPart[] = [
  'document',
  'style',
  'script',
  'task',
  'data',
  'picture',
  'font',
  'other',
  'nothing'
];

/** Two loads beside each other: vitals, the parts of the way to the paint, files and tasks. What changed most stands first. */
export function compareLoads(loads: Sides<PageLoad>): ComparedLoads {
  const ways = eachSide(loads, wayOf);
  const hasBoth = loads.before.largest !== null && loads.after.largest !== null;
  return {
    vitals: VITALS.map((vital) => ({
      vital,
      values: eachSide(loads, ({ vitals }) => vitals[vital] ?? null)
    })).filter(({ values }) => values.before !== null || values.after !== null),
    way: hasBoth
      ? PARTS.map((part) => ({ part, ms: eachSide(ways, (way) => way.get(part) ?? 0) }))
          .filter(({ ms }) => ms.before > 0 || ms.after > 0)
          .sort((a, b) => Math.abs(b.ms.after - b.ms.before) - Math.abs(a.ms.after - a.ms.before))
      : [],
    files: filesOf(loads),
    tasks: eachSide(loads, ({ tasks }) => ({
      count: tasks.length,
      ms: tasks.reduce((sum, { startMs, endMs }) => sum + endMs - startMs, 0)
    }))
  };
}

function wayOf(load: PageLoad): Map<WayPart, number> {
  const sums = new Map<WayPart, number>();
  for (const step of chainToPaint(load)) {
    const part = partOf(load, step);
    sums.set(part, (sums.get(part) ?? 0) + step.toMs - step.fromMs);
  }
  return sums;
}

const partOf = ({ resources }: PageLoad, step: ChainStep): WayPart =>
  step.of === 'resource' ? resources[step.index].kind : step.of;

function filesOf(loads: Sides<PageLoad>): ComparedFile[] {
  const found = new Map<string, ComparedFile>();
  for (const side of ['before', 'after'] as const)
    for (const { kind, url, transferBytes, endMs } of loads[side].resources) {
      const name = resourceName(url);
      const file = found.get(`${kind} ${name}`) ?? { kind, name, files: { before: null, after: null } };
      found.set(`${kind} ${name}`, file);
      const known = file.files[side];
      file.files[side] = {
        count: (known?.count ?? 0) + 1,
        bytes: transferBytes === null ? (known?.bytes ?? null) : (known?.bytes ?? 0) + transferBytes,
        endMs: Math.max(known?.endMs ?? 0, endMs)
      };
    }
  const changeOf = ({ files: { before, after } }: ComparedFile): number =>
    Math.abs((after?.bytes ?? 0) - (before?.bytes ?? 0));
  return [...found.values()].sort((a, b) => changeOf(b) - changeOf(a) || (a.name < b.name ? -1 : 1));
}
