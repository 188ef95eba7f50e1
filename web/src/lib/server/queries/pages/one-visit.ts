import type { PageLoad } from '@tromix/core/pages/page-load';
import { loadsOfVisit } from './listed-loads';
import { requestsBehind, type RequestBehind } from './requests-behind';
import { wholeLoads } from './whole-loads';

/** All that is known of one visit. */
export interface OneVisit {
  session: string;
  loads: PageLoad[];
  requests: RequestBehind[];
}

/** null for a visit of which nothing is stored. */
export async function oneVisit(session: string): Promise<OneVisit | null> {
  const listed = await loadsOfVisit(session);
  if (listed.length === 0) return null;
  const loads = await wholeLoads(listed.map(({ traceId }) => traceId));
  return { session, loads, requests: await requestsBehind(loads) };
}
