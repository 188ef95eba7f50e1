import { VITALS, worthOf, type Vital } from '@tromix/core/pages/vitals';
import { sketchSize, sketchQuantiles, type Sketch } from '@tromix/core/stats/sketch';
import { SKETCH_UNITS } from '../../ingest/pages/page-shape';
import type { PageSums } from './page-sums';

/** The share of loads that a vital is judged at (web.dev, Web Vitals: the 75th percentile). */
export const JUDGED_AT = 0.75;

/** What some loads come to. */
export interface PageFigures {
  loads: number;
  /** Loads that have a score: what the score and the worth are of. */
  scored: number;
  /** Mean, 0 to 100; null where no load has one. */
  score: number | null;
  errors: number;
  /** At the 75th percentile, within 1 %: milliseconds, of CLS its score; null where it was measured of no load. */
  p75: Record<Vital, number | null>;
}

export const figuresOf = ({ loads, scored, scoreSum, errors, sketches }: PageSums): PageFigures => ({
  loads,
  scored,
  score: scored === 0 ? null : scoreSum / scored / 100,
  errors,
  p75: Object.fromEntries(
    VITALS.map((vital) => [vital, quantileOf(vital, sketches[vital])])
  ) as PageFigures['p75']
});

const quantileOf = (vital: Vital, sketch: Sketch): number | null =>
  sketchSize(sketch) === 0 ? null : sketchQuantiles(sketch, [JUDGED_AT])[0] / SKETCH_UNITS[vital];

/** What a page is worth among all loads that have a score: points that the mean of all would gain. */
export const worthAmong = ({ scored, scoreSum }: PageSums, all: number): number =>
  worthOf({ loads: scored, scoreSum: scoreSum / 100 }, all);
