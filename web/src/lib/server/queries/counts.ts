import { inScope, seriesOf, type InSeries } from '$lib/evidence/in-scope';
import { scopeWindow, type Scope } from '$lib/scope';
import { select } from '../db/reader';
import { MOST_LISTED } from './evidence';

/** Numbers beside the views in the navigation: how many rows each lists. */
export interface Counts {
  profiles: number;
  threads: number;
  heaps: number;
  evidence: number;
}

const OF_KIND = `SELECT id, series, service, host, release, started_at_us AS startedAtUs, received_at_us AS receivedAtUs, duration_ns AS durationNs
  FROM evidence WHERE kind = ? ORDER BY coalesce(started_at_us, received_at_us) DESC LIMIT ${MOST_LISTED}`;

export async function countsOf(scope: Scope, nowMs: number): Promise<Counts> {
  const [profiles, threads, heaps, [{ evidence }]] = await Promise.all([
    ...['profile', 'threads', 'heap'].map((kind) => select<InSeries>(OF_KIND, [kind])),
    select<{ evidence: number }>('SELECT count(*) AS evidence FROM evidence')
  ] as [Promise<InSeries[]>, Promise<InSeries[]>, Promise<InSeries[]>, Promise<{ evidence: number }[]>]);
  const window = scopeWindow(scope, nowMs);
  return {
    profiles: profiles.filter((one) => inScope(one, scope, window)).length,
    threads: seriesOf(threads).filter((one) => inScope(one, scope, window)).length,
    heaps: heaps.filter((one) => inScope(one, scope, window)).length,
    evidence
  };
}
