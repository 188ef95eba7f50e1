import type { PageLoad } from '@tromix/core/pages/page-load';
import type { Audience } from '$lib/page-choices';
import { wholeBins, type TimeWindow } from '$lib/scope';
import { select } from '../../db/reader';
import { loadBrief } from './load-brief';
import { neighbours } from './listed-loads';
import { figuresOf } from './page-figures';
import { addSums, emptySums, pageSums } from './page-sums';
import { requestsBehind, type RequestBehind } from './requests-behind';
import { vitalBars, type VitalBars } from './vital-bars';
import { wholeLoads } from './whole-loads';

export interface OneLoad {
  pageId: number;
  load: PageLoad;
  /** How the vitals of its page are distributed, in the window. */
  vitals: VitalBars[];
  slower: string;
  faster: string;
  requests: RequestBehind[];
  profile: LoadProfile | null;
  /** Of which time the distributions are: the scope's, or the day around a load outside of it. */
  window: TimeWindow;
}

/** A profile of the page while it loaded. */
export interface LoadProfile {
  id: string;
  /** When it begins, milliseconds from the start of the navigation, and how long it is. */
  startMs: number;
  durationMs: number;
}

const HALF_DAY_US = 43_200e6;

/** null for a load that is not stored. */
export async function oneLoad(
  traceId: string,
  audience: Audience,
  scoped: TimeWindow,
  nowMs: number
): Promise<OneLoad | null> {
  const [brief, [load]] = await Promise.all([loadBrief(traceId), wholeLoads([traceId])]);
  if (brief === null || !load) return null;
  const { pageId } = brief;
  const isInside = load.atUs >= scoped.fromUs && load.atUs < scoped.toUs;
  const window = isInside
    ? scoped
    : wholeBins({ fromUs: load.atUs - HALF_DAY_US, toUs: load.atUs + HALF_DAY_US }, nowMs);
  const [sums, next, requests, profile] = await Promise.all([
    pageSums(audience, window, nowMs, 'all', pageId),
    neighbours(audience, window, pageId, { traceId, lcp: load.vitals.lcp ?? null }),
    requestsBehind([load]),
    profileOf(brief.profile, load.atUs)
  ]);
  const all = emptySums();
  for (const one of sums) addSums(all, one);
  return { pageId, load, vitals: vitalBars(all, figuresOf(all)), ...next, requests, profile, window };
}

async function profileOf(id: string, loadUs: number): Promise<LoadProfile | null> {
  if (id === '') return null;
  const rows = await select<{ startedUs: number; durationNs: number }>(
    'SELECT started_at_us AS startedUs, duration_ns AS durationNs FROM evidence WHERE id = ? AND started_at_us IS NOT NULL',
    [id]
  );
  const [found] = rows;
  return found
    ? { id, startMs: (found.startedUs - loadUs) / 1000, durationMs: found.durationNs / 1e6 }
    : null;
}
