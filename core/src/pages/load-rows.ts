import { plural } from '../text/format';
import { pathOf, templatePath } from '../trace/path-template';
import type { Account } from '../trace/account';
import { accountOfStep } from './load-ledger';
import type { ChainStep } from './chain';
import type { PageLoad, PageResource, ResourceKind } from './page-load';

/** Headings under which the rows of a load stand, in their order. */
export const LOAD_GROUPS = [
  'document',
  'styles and script',
  'data',
  'pictures and fonts',
  'others',
  'after the paint'
] as const;
export type LoadGroup = (typeof LOAD_GROUPS)[number];

/** A row of a load: one thing, or several that are alike. */
export interface LoadRow {
  key: string;
  group: LoadGroup;
  label: string;
  account: Account;
  /** Places in the load's lists, in order of time. */
  of: 'resource' | 'task';
  members: readonly number[];
  /** Bytes over the network, of those that tell them; null where none does. */
  bytes: number | null;
  fromMs: number;
  toMs: number;
}

const NOUNS: Record<ResourceKind, string> = {
  document: 'document',
  style: 'style sheet',
  script: 'script',
  data: 'call',
  picture: 'picture',
  font: 'font',
  other: 'file'
};
const GROUPS: Record<ResourceKind, LoadGroup> = {
  document: 'document',
  style: 'styles and script',
  script: 'styles and script',
  data: 'data',
  picture: 'pictures and fonts',
  font: 'pictures and fonts',
  other: 'others'
};

/** Tasks that have a row of their own: those on the way to the paint, and else the longest. */
const OWN_TASKS = 6;

/**
 * A load as rows: what was fetched before the largest paint by kind, data by address without ids, the painted picture and long tasks by themselves, and all
 * that began after the paint together. Without a largest paint everything came before it.
 */
export function loadRows(load: PageLoad, chain: readonly ChainStep[]): LoadRow[] {
  const paintMs = load.largest?.atMs ?? Infinity;
  const rows = new Map<string, LoadRow & { members: number[] }>();
  const add = (
    key: string,
    row: Omit<LoadRow, 'key' | 'members' | 'fromMs' | 'toMs'>,
    index: number
  ): void => {
    const { startMs, endMs } = row.of === 'task' ? load.tasks[index] : load.resources[index];
    const known = rows.get(key);
    if (!known) {
      rows.set(key, { key, ...row, members: [index], fromMs: startMs, toMs: endMs });
      return;
    }
    known.members.push(index);
    known.fromMs = Math.min(known.fromMs, startMs);
    known.toMs = Math.max(known.toMs, endMs);
    if (row.bytes !== null) known.bytes = (known.bytes ?? 0) + row.bytes;
  };
  load.resources.forEach((resource, index) => {
    const { key, group } = placeOf(resource, load, paintMs);
    const account = accountOfStep(load, { of: 'resource', index, fromMs: 0, toMs: 0 });
    add(key, { group, label: '', account, of: 'resource', bytes: resource.transferBytes }, index);
  });
  const own = ownTasks(load, chain);
  load.tasks.forEach(({ startMs }, index) => {
    const isAfter = startMs >= paintMs;
    const key = isAfter ? 'tasks after' : own.has(index) ? `task ${index}` : 'tasks';
    const group = isAfter ? 'after the paint' : 'styles and script';
    add(key, { group, label: '', account: 'ownCode', of: 'task', bytes: null }, index);
  });
  return [...rows.values()]
    .map((row) => ({ ...inTime(row, load), label: labelOf(row, load) }))
    .sort(
      (a, b) =>
        LOAD_GROUPS.indexOf(a.group) - LOAD_GROUPS.indexOf(b.group) ||
        rankOf(a, load) - rankOf(b, load) ||
        a.fromMs - b.fromMs
    );
}

/** What a resource is put together with. */
function placeOf(
  resource: PageResource,
  { largest }: PageLoad,
  paintMs: number
): { key: string; group: LoadGroup } {
  const { kind, url, method, startMs } = resource;
  if (largest?.url && url === largest.url) return { key: 'largest', group: GROUPS[kind] };
  if (startMs >= paintMs) return { key: 'after', group: 'after the paint' };
  if (kind === 'data') return { key: `data ${method} ${templatePath(pathOf(url))}`, group: 'data' };
  return { key: kind, group: GROUPS[kind] };
}

function ownTasks({ tasks }: PageLoad, chain: readonly ChainStep[]): Set<number> {
  const onTheWay = chain.flatMap((step) => (step.of === 'task' ? [step.index] : []));
  const longest = tasks
    .map(({ startMs, endMs }, index) => ({ index, ms: endMs - startMs }))
    .sort((a, b) => b.ms - a.ms)
    .map(({ index }) => index);
  return new Set([...onTheWay, ...longest].slice(0, Math.max(OWN_TASKS, onTheWay.length)));
}

function inTime(row: LoadRow, { resources, tasks }: PageLoad): LoadRow {
  const of = row.of === 'task' ? tasks : resources;
  return { ...row, members: row.members.toSorted((a, b) => of[a].startMs - of[b].startMs) };
}

/** Style sheets stand before scripts, and tasks in order of time behind both. */
const rankOf = ({ of, members }: LoadRow, { resources }: PageLoad): number =>
  of === 'task' ? 2 : resources[members[0]].kind === 'style' ? 0 : 1;

function labelOf({ key, of, members, group }: LoadRow, { resources, tasks }: PageLoad): string {
  const count = members.length;
  const [first] = members;
  if (of === 'task') {
    if (count > 1) return `${count} long tasks`;
    const { function: name, script } = tasks[first];
    return `long task: ${name || (script && shortUrl(script)) || 'not told by what'}`;
  }
  const { kind, url, method } = resources[first];
  if (key === 'largest') return `${shortUrl(url)} (the largest paint)`;
  if (kind === 'document' && count === 1) return named(method, pathOf(url));
  if (group === 'data') return named(method, templatePath(pathOf(url)));
  if (group === 'after the paint') return `${count} more`;
  return count === 1
    ? shortUrl(url)
    : `${plural(count, NOUNS[kind])}${kind === 'script' ? ' before the paint' : ''}`;
}

/** A path with its method, where that is told. */
export const named = (method: string, path: string): string => (method ? `${method} ${path}` : path);

/** The last part of an address that says something. */
export function shortUrl(url: string): string {
  const path = pathOf(url);
  return path.replace(/\/$/, '').slice(path.replace(/\/$/, '').lastIndexOf('/') + 1) || path;
}
