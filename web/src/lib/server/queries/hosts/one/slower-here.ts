import type { SlowerHere } from '@tromix/core/findings/host-finding';
import { groupBy } from '@tromix/core/group-by';
import { NO_PICKS, type Scope, type TimeWindow } from '$lib/scope';
import { endpointsById, namesById } from '../../names-by-id';
import { totalsIn } from '../../rollups';

/** Requests so few say nothing of a service on a host. */
const LEAST_REQUESTS = 20;
/** A service counts as slower here from so many times on. */
const LEAST_RATIO = 1.5;

/**
 * Services whose requests took longer on a host than on the others: what they took, of what as many requests of the same endpoints took elsewhere (indirect
 * standardisation), so that another mix of endpoints makes no difference.
 */
export async function slowerHere(
  scope: Scope,
  window: TimeWindow,
  nowMs: number,
  host: string
): Promise<SlowerHere[]> {
  const everywhere: Scope = { ...scope, ...NO_PICKS, host: '', endpoint: '' };
  const totals = await totalsIn(everywhere, window, nowMs, 'endpoint', 'host');
  const ids = [...totals.keys()].map((key) => key.split(' ').map(Number));
  const [endpoints, hosts] = await Promise.all([
    endpointsById(ids.map(([id]) => id)),
    namesById(
      'hosts',
      ids.map(([, id]) => id)
    )
  ]);
  const sums = new Map<string, { took: number; expected: number; requests: number }>();
  const byEndpoint = groupBy(totals, ([key]) => key.split(' ')[0]);
  for (const [endpoint, of] of byEndpoint) {
    const isHere = ([key]: (typeof of)[number]): boolean => hosts.get(Number(key.split(' ')[1])) === host;
    const here = of.filter(isHere);
    const elsewhere = of.filter((one) => !isHere(one));
    const count = (list: typeof of): number => list.reduce((sum, [, one]) => sum + one.count, 0);
    const total = (list: typeof of): number => list.reduce((sum, [, one]) => sum + one.totalNs, 0);
    if (count(here) === 0 || count(elsewhere) < LEAST_REQUESTS) continue;
    const service = endpoints.get(Number(endpoint))?.service;
    if (service === undefined) continue;
    const sum = sums.get(service) ?? { took: 0, expected: 0, requests: 0 };
    sum.took += total(here);
    sum.expected += (total(elsewhere) / count(elsewhere)) * count(here);
    sum.requests += count(here);
    sums.set(service, sum);
  }
  return [...sums]
    .map(([service, { took, expected, requests }]) => ({ service, ratio: took / expected, requests }))
    .filter(({ ratio, requests }) => ratio >= LEAST_RATIO && requests >= LEAST_REQUESTS)
    .sort((a, b) => b.ratio - a.ratio);
}
