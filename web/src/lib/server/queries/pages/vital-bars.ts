import { ratingOf, VITAL_FACTS, VITALS, type Rating, type Vital } from '@tromix/core/pages/vitals';
import { pairsOf, valueOf } from '@tromix/core/stats/sketch';
import { SKETCH_UNITS } from '../../ingest/pages/page-shape';
import type { PageFigures } from './page-figures';
import type { PageSums } from './page-sums';

/** How a vital is distributed over some loads: bars of equal width from 0 on; what is beyond the last is in it. */
export interface VitalBars {
  vital: Vital;
  /** At the 75th percentile; null where it was measured of no load. */
  p75: number | null;
  /** Where the last bar ends, in the vital's unit. */
  until: number;
  bars: { count: number; rating: Rating }[];
}

const BARS = 24;
/** The axis reaches so much further than the limit from which on it is poor. */
const BEYOND_POOR = 1.5;

/** Limits fall between bars, so that each has one rating: so many bars from the poor limit on. */
export const vitalBars = ({ sketches }: PageSums, { p75 }: Pick<PageFigures, 'p75'>): VitalBars[] =>
  VITALS.map((vital) => {
    const until = VITAL_FACTS[vital].limits[1] * BEYOND_POOR;
    const width = until / BARS;
    const bars = Array.from({ length: BARS }, (_, i) => ({
      count: 0,
      rating: ratingOf(vital, (i + 0.5) * width)
    }));
    for (const [bucket, count] of pairsOf(sketches[vital])) {
      const value = valueOf(bucket) / SKETCH_UNITS[vital];
      bars[Math.min(BARS - 1, Math.floor(value / width))].count += count;
    }
    return { vital, p75: p75[vital], until, bars };
  });
