import { findInPage, type PageRule } from '@tromix/core/findings/page-rules';
import { beforePaint, type BeforePaint } from '@tromix/core/pages/before-paint';
import { chainToPaint } from '@tromix/core/pages/chain';
import type { PageLoad } from '@tromix/core/pages/page-load';
import type { Vital } from '@tromix/core/pages/vitals';
import { APART_BY, type ApartBy, type Audience } from '$lib/page-choices';
import type { TimeWindow } from '$lib/scope';
import { select } from '../../db/reader';
import { PAGE_ROLLUP } from '../../ingest/pages/page-shape';
import { seriesStep } from '../bins';
import { slowestLoads, type ListedLoad } from './listed-loads';
import { figuresOf, type PageFigures } from './page-figures';
import { addSums, emptySums, pageSeries, pageSums, type PageSums } from './page-sums';
import { vitalBars, type VitalBars } from './vital-bars';
import { newestPainted } from './whole-loads';

/** Bins of the chart over time at the most. */
const MOST_BINS = 60;

/** Loads that have something alike. */
export interface ApartRow extends PageFigures {
  /** '' for what is not told. */
  name: string;
}

/** What a rule finds in many loads of a page. */
export interface FoundInLoads {
  rule: PageRule;
  /** Loads it was found in. */
  loads: number;
  /** Mean over all loads that were looked at, milliseconds. */
  meanMs: number;
  /** As it was found where it costs most, and in which load. */
  worst: { title: string; sentence: string; remedy: string; traceId: string };
}

export interface OnePage {
  figures: PageFigures;
  vitals: VitalBars[];
  series: { atMs: number; loads: number; p75: Record<Vital, number | null> }[];
  binMs: number;
  apart: Record<ApartBy, ApartRow[]>;
  slowest: ListedLoad[];
  /** The newest loads that had a largest paint, looked at one by one. */
  lookedAt: number;
  before: BeforePaint[];
  findings: FoundInLoads[];
}

export async function onePage(
  audience: Audience,
  window: TimeWindow,
  nowMs: number,
  page: number
): Promise<OnePage> {
  const step = seriesStep(window, nowMs, MOST_BINS, PAGE_ROLLUP.steps);
  const [byAudience, series, slowest, newest] = await Promise.all([
    pageSums(audience, window, nowMs, 'audience', page),
    pageSeries(audience, window, step, page),
    slowestLoads(audience, window, page),
    newestPainted(audience, window, page)
  ]);
  const all = emptySums();
  for (const one of byAudience) addSums(all, one);
  const figures = figuresOf(all);
  return {
    figures,
    vitals: vitalBars(all, figures),
    series: series.map(({ atMs, sums }) => ({ atMs, loads: sums.loads, p75: figuresOf(sums).p75 })),
    binMs: step * 60_000,
    apart: await apartBy(byAudience),
    slowest,
    lookedAt: newest.length,
    before: beforePaint(newest),
    findings: foundIn(newest)
  };
}

async function apartBy(byAudience: readonly (PageSums & { key: number })[]): Promise<OnePage['apart']> {
  const rows = await select<Record<ApartBy, string> & { id: number }>(
    'SELECT id, release, device, connection, country FROM page_audiences'
  );
  const names = new Map(rows.map((row) => [row.id, row]));
  const rowsBy = (by: ApartBy): ApartRow[] => {
    const groups = new Map<string, PageSums>();
    for (const { key, ...sums } of byAudience) {
      const name = names.get(key)?.[by] ?? '';
      const known = groups.get(name) ?? emptySums();
      groups.set(name, known);
      addSums(known, sums);
    }
    return [...groups]
      .map(([name, sums]) => ({ name, ...figuresOf(sums) }))
      .sort((a, b) => b.loads - a.loads || (a.name < b.name ? -1 : 1));
  };
  return Object.fromEntries(APART_BY.map((by) => [by, rowsBy(by)])) as OnePage['apart'];
}

/** What the rules find in some loads, what costs most over all of them first. */
function foundIn(loads: readonly PageLoad[]): FoundInLoads[] {
  const found = new Map<
    PageRule,
    { loads: number; sumNs: number; mostNs: number; worst: FoundInLoads['worst'] }
  >();
  for (const load of loads) {
    const seen = new Set<PageRule>();
    for (const { rule, cost, title, sentence, remedy } of findInPage({ load, chain: chainToPaint(load) })) {
      const worst = { title, sentence, remedy, traceId: load.traceId };
      const known = found.get(rule) ?? { loads: 0, sumNs: 0, mostNs: -1, worst };
      if (!seen.has(rule)) known.loads++;
      seen.add(rule);
      known.sumNs += cost;
      if (cost > known.mostNs) [known.mostNs, known.worst] = [cost, worst];
      found.set(rule, known);
    }
  }
  return [...found]
    .map(([rule, { loads: count, sumNs, worst }]) => ({
      rule,
      loads: count,
      meanMs: sumNs / 1e6 / loads.length,
      worst
    }))
    .sort((a, b) => b.meanMs - a.meanMs || b.loads - a.loads);
}
