import { bucketOf } from '@tromix/core/stats/sketch';
import { loadScore, VITALS, type Vital, type Vitals } from '@tromix/core/pages/vitals';
import type { Buckets, RollupShape } from '../rollup';
import type { NamedLoad } from './page-names';

/** A load as it is summed up. */
export interface CountedLoad extends NamedLoad {
  startUs: number;
  vitals: Vitals;
  errors: number;
}

/** How many of a sketch's units one of a vital is: microseconds a millisecond, and millionths of a shift. */
export const SKETCH_UNITS: Readonly<Record<Vital, number>> = {
  ttfb: 1000,
  fcp: 1000,
  lcp: 1000,
  inp: 1000,
  cls: 1e6
};

const bucketsOf =
  (vital: Vital) =>
  ({ vitals }: CountedLoad): Buckets => {
    const value = vitals[vital];
    return value === undefined ? [] : [[bucketOf(value * SKETCH_UNITS[vital]), 1]];
  };

/** Hundredths of a point: sums of them are exact, so that a load can be taken out again. */
const scoreIn = ({ vitals }: CountedLoad): number | null => {
  const score = loadScore(vitals);
  return score === null ? null : Math.round(score * 100);
};

/** Loads by page and audience, and of every audience. */
export const PAGE_ROLLUP: RollupShape<CountedLoad> = {
  table: 'page_rollups',
  minute: ({ startUs }) => Math.floor(startUs / 60e6),
  key: {
    margin: () => 0,
    page_id: ({ pageId }) => pageId,
    audience_id: ({ audienceId }) => audienceId
  },
  sums: {
    loads: () => 1,
    scored: (load) => (scoreIn(load) === null ? 0 : 1),
    score_sum: (load) => scoreIn(load) ?? 0,
    errors: ({ errors }) => errors
  },
  greatest: {},
  sketches: Object.fromEntries(VITALS.map((vital) => [vital, bucketsOf(vital)])),
  steps: [1, 60, 1440],
  margins: [{ margin: 1, audience_id: 0 }]
};
