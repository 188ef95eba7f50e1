import { eachSide, type Sides } from '@tromix/core/sides';
import { changeBetween, changeRank, type Change } from '@tromix/core/stats/rank-test';
import { NO_PICKS, scopeWindow, type Scope } from '$lib/scope';
import { callTotals, type CallTotals } from '../calls/call-totals';
import { endpointsById, groupsById } from '../names-by-id';
import { latency, totalIn, totalsIn } from '../rollups';
import { emptyTotals, type Totals } from '../totals';

/** An endpoint on both sides. */
export interface EndpointChange {
  id: number;
  service: string;
  endpoint: string;
  count: Sides<number>;
  p50Ns: Sides<number>;
  p95Ns: Sides<number>;
  failed: Sides<number>;
  change: Change;
}

/** A kind of call on both sides. */
export interface CallChange {
  id: number;
  kind: string;
  name: string;
  /** Calls for each request of the side, whether it makes any or not. */
  perRequest: Sides<number>;
  /** An average call, nanoseconds; NaN without one. */
  eachNs: Sides<number>;
  failed: Sides<number>;
  /** How long each takes. */
  change: Change;
}

/** All endpoints and kinds of calls of both times, what clearly changed first. */
export interface EverythingElse {
  endpoints: EndpointChange[];
  calls: CallChange[];
}

const MOST_LISTED = 500;
const EVERY_NAME = { service: '', endpoint: '', host: '', release: '' };

/** Whatever the sides look at: of their times and load runs everything. */
export async function everythingElse(scopes: Sides<Scope>, nowMs: number): Promise<EverythingElse> {
  const asked = eachSide(scopes, (scope) => ({ ...scope, ...NO_PICKS, ...EVERY_NAME }));
  const [endpoints, calls] = await Promise.all([endpointChanges(asked, nowMs), callChanges(asked, nowMs)]);
  return { endpoints, calls };
}

const both = async <T>(sides: Sides<Scope>, read: (scope: Scope) => Promise<T>): Promise<Sides<T>> => {
  const [before, after] = await Promise.all([read(sides.before), read(sides.after)]);
  return { before, after };
};

async function endpointChanges(scopes: Sides<Scope>, nowMs: number): Promise<EndpointChange[]> {
  const totals = await both(scopes, (scope) => totalsIn(scope, scopeWindow(scope, nowMs), nowMs, 'endpoint'));
  const ids = [...new Set([...totals.before.keys(), ...totals.after.keys()])].map(Number);
  const names = await endpointsById(ids);
  const rows = ids.map((id): EndpointChange => {
    const sides = eachSide(totals, (side): Totals => side.get(String(id)) ?? emptyTotals());
    const figures = eachSide(sides, (side) => latency(side, [0.5, 0.95]));
    return {
      id,
      service: names.get(id)?.service ?? '',
      endpoint: names.get(id)?.name ?? '',
      count: eachSide(sides, ({ count }) => count),
      p50Ns: eachSide(figures, ([p50]) => p50),
      p95Ns: eachSide(figures, ([, p95]) => p95),
      failed: eachSide(sides, ({ failed }) => failed),
      change: changeBetween(sides.before.sketch, sides.after.sketch, [figures.before[0], figures.after[0]])
    };
  });
  return clearFirst(
    rows,
    ({ count, p50Ns }) => weight(count.before, p50Ns.before) + weight(count.after, p50Ns.after)
  );
}

async function callChanges(scopes: Sides<Scope>, nowMs: number): Promise<CallChange[]> {
  const [totals, requests] = await Promise.all([
    both(scopes, async (scope) => {
      const rows = await callTotals(scope, scopeWindow(scope, nowMs), nowMs, ['group']);
      return new Map(rows.map(({ keys, totals }) => [keys[0], totals]));
    }),
    both(scopes, async (scope) => (await totalIn(scope, scopeWindow(scope, nowMs), nowMs)).count)
  ]);
  const ids = [...new Set([...totals.before.keys(), ...totals.after.keys()])];
  const groups = await groupsById(ids);
  const rows = ids.map((id): CallChange => {
    const sides = eachSide(totals, (side): CallTotals | null => side.get(id) ?? null);
    return {
      id,
      kind: groups.get(id)?.kind ?? '',
      name: groups.get(id)?.fingerprint ?? '',
      perRequest: eachSide(sides, (side, which) => (side?.calls ?? 0) / requests[which]),
      eachNs: eachSide(sides, (side) => (side ? side.totalNs / side.calls : NaN)),
      failed: eachSide(sides, (side) => side?.failed ?? 0),
      change:
        sides.before && sides.after
          ? changeBetween(sides.before.sketch, sides.after.sketch, [sides.before.p50Ns, sides.after.p50Ns])
          : { verdict: 'too few', ratio: NaN, p: NaN }
    };
  });
  return clearFirst(
    rows,
    ({ perRequest, eachNs }) =>
      weight(perRequest.before, eachNs.before) + weight(perRequest.after, eachNs.after)
  );
}

const weight = (count: number, ns: number): number => (count > 0 ? count * ns : 0);

/** Slower first, then faster, then by the time they take. */
function clearFirst<Row extends { change: Change }>(rows: Row[], weightOf: (row: Row) => number): Row[] {
  const order = ({ change }: Row): number => {
    const rank = changeRank(change);
    return rank === null || rank === 1 ? 2 : rank > 1 ? 0 : 1;
  };
  return rows.sort((a, b) => order(a) - order(b) || weightOf(b) - weightOf(a)).slice(0, MOST_LISTED);
}
