import { filePattern, opensFile } from '@tromix/core/calls/file-call';
import { groupBy } from '@tromix/core/group-by';
import type { CallRows } from '$lib/call-choices';
import { scopeWindow, type Scope, type TimeWindow } from '$lib/scope';
import { CALL_ROLLUP } from '../../ingest/rollup-shapes';
import { seriesStep, stepName } from '../bins';
import { figures, pointsOf, SERIES_BINS, type CallFigures, type CallPoint } from './call-points';
import {
  callSeries,
  callTotals,
  mergeCalls,
  mostOf,
  ONLY_CALLS,
  type CallKey,
  type CallTotals
} from './call-totals';
import type { Filter } from '../filter';
import { endpointsById, groupsById, namesById, originsById, shownNames } from '../names-by-id';
import { outgoingTotals, type Outgoing } from './outgoing';

export interface CallRow extends CallFigures {
  id: number;
  name: string;
  /** Kind of a call group; service of an endpoint. */
  detail: string;
  /** Of call groups: its whole name. */
  fingerprint: string;
  /** Of call groups and files: where most are made, and the endpoint that asks most; '' where it is not known. */
  origin: string;
  asker: string;
  share: number;
  /** Of files: how often one was opened; null for other kinds. */
  opens: number | null;
  /** Of outgoing HTTP calls: what they tell; null for other kinds, and where nothing is told. */
  outgoing: Outgoing | null;
}

export interface CallsPage {
  window: TimeWindow;
  resolution: string;
  rows: CallRow[];
  all: { calls: number; totalNs: number; groups: number };
  series: CallPoint[];
  stepMs: number;
}

/** Which calls are listed. */
export interface CallChoice {
  rows: CallRows;
  /** '' for all. */
  kind: string;
  /** Made at one origin, by its number. */
  origin: number | undefined;
  /** To files of one pattern; '' for all. */
  file?: string;
}

function filterOf({ kind, origin, file }: CallChoice): Filter {
  const filter = kind
    ? {
        sql: ' AND c.group_id IN (SELECT id FROM call_groups WHERE kind = ?)',
        args: [kind as string | number]
      }
    : { ...ONLY_CALLS, args: [...ONLY_CALLS.args] };
  if (origin !== undefined) {
    filter.sql += ' AND c.origin_id = ?';
    filter.args.push(origin);
  }
  if (file) {
    filter.sql +=
      " AND c.group_id IN (SELECT id FROM call_groups WHERE kind = 'file' AND substr(fingerprint, length(verb) + 2) = ?)";
    filter.args.push(file);
  }
  return filter;
}

/** What is asked of the sums. */
interface Asked {
  scope: Scope;
  window: TimeWindow;
  nowMs: number;
  filter: Filter;
}

/** A row before its share is known. */
type Listed = Omit<CallRow, 'share' | keyof CallFigures> & { totals: CallTotals };

/** Calls in a scope, by what the rows are. */
export async function callsOf(scope: Scope, choice: CallChoice, nowMs: number): Promise<CallsPage> {
  const { rows, kind } = choice;
  const window = scopeWindow(scope, nowMs);
  const asked: Asked = { scope, window, nowMs, filter: filterOf(choice) };
  const listed = await (rows === 'statement' || rows === 'file'
    ? listCalled(asked, choice)
    : listAskers(asked, choice));
  const told = kind === 'http' ? await outgoingTotals(scope, window, nowMs, KEYS[rows], asked.filter) : null;
  const totalNs = listed.reduce((sum, { totals }) => sum + totals.totalNs, 0);
  const step = seriesStep(window, nowMs, SERIES_BINS, CALL_ROLLUP.steps);
  const series = await callSeries(scope, window, step, asked.filter);
  return {
    window,
    resolution: stepName(step),
    stepMs: step * 60_000,
    rows: listed
      .map(({ totals, ...row }) => ({
        ...row,
        opens: kind === 'file' ? row.opens : null,
        outgoing: told?.get(row.id) ?? null,
        share: totalNs > 0 ? totals.totalNs / totalNs : 0,
        ...figures(totals)
      }))
      .sort((a, b) => b.totalNs - a.totalNs),
    all: {
      calls: listed.reduce((sum, { totals }) => sum + totals.calls, 0),
      totalNs,
      groups: listed.length
    },
    series: pointsOf(series, step)
  };
}

/** The key of each kind of row; files are call groups taken together. */
const KEYS: Record<CallRows, CallKey> = {
  statement: 'group',
  file: 'group',
  origin: 'origin',
  endpoint: 'endpoint',
  service: 'service',
  host: 'host'
};

/** Call groups, or files: what is asked, with who asks most. */
async function listCalled(
  { scope, window, nowMs, filter }: Asked,
  { rows, kind }: CallChoice
): Promise<Listed[]> {
  // Who asks most is told in the lists of one kind: over all calls there are too many of them.
  const keys: CallKey[] =
    kind === 'file' || kind === 'http' ? ['group', 'origin', 'endpoint'] : ['group', 'origin'];
  const parts = await callTotals(scope, window, nowMs, keys, filter);
  const groups = await groupsById(parts.map(({ keys }) => keys[0]));
  const names = shownNames(groups);
  const nameOf = (id: number): string => {
    const group = groups.get(id);
    if (!group) return '';
    return rows === 'file' ? filePattern(group) : names.get(id)!;
  };
  const found = [
    ...groupBy(parts, ({ keys: [id] }) => (rows === 'file' ? nameOf(id) : String(id))).values()
  ].map((of) => ({ id: of[0].keys[0], of, origin: mostOf(of, 1), endpoint: mostOf(of, 2) }));
  const origins = await originsById(found.map(({ origin }) => origin));
  const endpoints = await endpointsById(found.map(({ endpoint }) => endpoint));
  return found.map(({ id, of, origin, endpoint }) => {
    const opening = of.filter(({ keys }) => opensFile(groups.get(keys[0]) ?? { fingerprint: '', verb: '' }));
    return {
      id,
      name: nameOf(id),
      detail: groups.get(id)?.kind ?? '',
      fingerprint: groups.get(id)?.fingerprint ?? '',
      origin: origins.get(origin) ?? '',
      asker: endpoints.get(endpoint)?.name ?? '',
      opens: opening.reduce((sum, { totals }) => sum + totals.calls, 0),
      outgoing: null,
      totals: mergeCalls(of.map(({ totals }) => totals))
    };
  });
}

/** Who asks: origins, endpoints, services or hosts. */
async function listAskers(
  { scope, window, nowMs, filter }: Asked,
  { rows, kind }: CallChoice
): Promise<Listed[]> {
  const key = KEYS[rows];
  const parts = await callTotals(scope, window, nowMs, [key], filter);
  const nameOf = await askerNames(
    rows,
    parts.map(({ keys }) => keys[0])
  );
  const opens =
    kind === 'file' ? await opensBy({ scope, window, nowMs, filter }, key) : new Map<number, number>();
  return parts.map(({ keys: [id], totals }) => ({
    id,
    ...nameOf(id),
    fingerprint: '',
    origin: '',
    asker: '',
    opens: opens.get(id) ?? 0,
    outgoing: null,
    totals
  }));
}

/** How often files were opened, by a key. */
async function opensBy({ scope, window, nowMs, filter }: Asked, key: CallKey): Promise<Map<number, number>> {
  const parts = await callTotals(scope, window, nowMs, [key, 'group'], filter);
  const groups = await groupsById(parts.map(({ keys }) => keys[1]));
  const opens = new Map<number, number>();
  for (const { keys, totals } of parts) {
    const group = groups.get(keys[1]);
    if (group && opensFile(group)) opens.set(keys[0], (opens.get(keys[0]) ?? 0) + totals.calls);
  }
  return opens;
}

async function askerNames(
  rows: CallRows,
  ids: readonly number[]
): Promise<(id: number) => { name: string; detail: string }> {
  if (rows === 'endpoint') {
    const names = await endpointsById(ids);
    return (id) => ({ name: names.get(id)?.name ?? '', detail: names.get(id)?.service ?? '' });
  }
  const names = await (rows === 'origin'
    ? originsById(ids)
    : namesById(rows === 'host' ? 'hosts' : 'services', ids));
  return (id) => ({ name: names.get(id) ?? '(origin not recorded)', detail: '' });
}
