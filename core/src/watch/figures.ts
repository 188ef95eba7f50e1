import { VITAL_FACTS } from '../pages/vitals';
import { measureText } from '../counters/measure-words';
import { MEASURES, type LineUnit } from '../counters/strips';
import { metricText } from '../counters/unit-words';
import { apdexFromSketch, apdexScore } from '../stats/apdex';
import { sketchQuantiles } from '../stats/sketch';
import { formatDuration, formatFigure, formatRate, formatShare } from '../text/format';
import type { Cell } from './cell';
import type { Watched } from './watched';

/** On which side of a limit it is worse. A figure of which neither is worse may be watched on either. */
export type Side = 'above' | 'below';

/** A figure: what it is called, how it is computed of a cell, and how it is written. */
export interface Figure {
  /** As a legend names it: `p95`. */
  title: string;
  worse: Side;
  /** Fewer than so many of what is counted say nothing: then there is no value. */
  least: number;
  /** What is counted: `requests`. */
  counted: string;
  /** The value over some minutes; NaN where it has none. Nanoseconds, shares from 0 to 1, or plain numbers. */
  value: (cell: Cell, minutes: number) => number;
  text: (value: number) => string;
  /** In what a limit is typed: `ms`, and how many of the figure’s own units one of it is. */
  typed: { unit: string; factor: number };
}

/** Fewer say little of a 95th percentile or of a share (common practice: a p95 of 20 is its second-greatest value). */
const LEAST_OF_TAIL = 20;
const LEAST_OF_FAR_TAIL = 100;
/** Fewer say little of a median or a mean. */
const LEAST_OF_MIDDLE = 5;

const MILLISECONDS = { unit: 'ms', factor: 1e6 };
const PERCENT = { unit: '%', factor: 0.01 };
const PLAIN = { unit: '', factor: 1 };

const quantile = (p: number) => (cell: Cell) => sketchQuantiles(cell.sketch, [p])[0] * 1000;
const perMinute = (of: 'count' | 'hits') => (cell: Cell, minutes: number) => cell[of] / minutes;
const aMinute = (value: number): string => `${formatRate(value)}/min`;
const duration = (title: string, least: number, value: Figure['value'], counted: string): Figure => ({
  title,
  worse: 'above',
  least,
  counted,
  value,
  text: formatDuration,
  typed: MILLISECONDS
});
const share = (title: string, value: Figure['value'], counted: string): Figure => ({
  title,
  worse: 'above',
  least: LEAST_OF_TAIL,
  counted,
  value,
  text: formatShare,
  typed: PERCENT
});
const often = (title: string, of: 'count' | 'hits', counted: string, unit: string): Figure => ({
  title,
  worse: 'above',
  least: 0,
  counted,
  value: perMinute(of),
  text: aMinute,
  typed: { unit, factor: 1 }
});

/** What requests and calls have alike: how long, how often, how many failed. */
const timed = (counted: string): Record<'p50' | 'p95' | 'p99' | 'mean' | 'rate' | 'failed', Figure> => ({
  p50: duration('median', LEAST_OF_MIDDLE, quantile(0.5), counted),
  p95: duration('p95', LEAST_OF_TAIL, quantile(0.95), counted),
  p99: duration('p99', LEAST_OF_FAR_TAIL, quantile(0.99), counted),
  mean: duration('mean', LEAST_OF_MIDDLE, ({ sum, count }) => sum / count, counted),
  rate: often(`${counted} a minute`, 'count', counted, 'a minute'),
  failed: share('failed share', ({ failed, count }) => failed / count, counted)
});
const OF_REQUESTS = timed('requests');
const OF_CALLS = timed('calls');
const perOne = (title: string, counted: string, value: Figure['value']): Figure => ({
  title,
  worse: 'above',
  least: LEAST_OF_MIDDLE,
  counted,
  value,
  text: formatFigure,
  typed: PLAIN
});

/** The figure that something is watched by. */
export function figureOf(watched: Watched): Figure {
  switch (watched.of) {
    case 'requests':
      if (watched.figure === 'apdex')
        return {
          ...perOne('Apdex', 'requests', ({ sketch, failedSketch }) =>
            apdexScore(apdexFromSketch(sketch, failedSketch, watched.apdexMs))
          ),
          worse: 'below',
          least: LEAST_OF_TAIL,
          text: (value) => `${value.toFixed(2)} (T = ${formatDuration(watched.apdexMs * 1e6)})`
        };
      return watched.figure === 'calls'
        ? perOne('calls per request', 'requests', ({ hits, count }) => hits / count)
        : OF_REQUESTS[watched.figure];
    case 'calls':
      return watched.figure === 'per-request'
        ? perOne('calls per request', 'calls', ({ hits, count }) => count / hits)
        : OF_CALLS[watched.figure];
    case 'finding':
      return share('share of requests', ({ hits, count }) => hits / count, 'requests');
    case 'failures':
      return watched.figure === 'rate'
        ? often('times a minute', 'hits', 'failures', 'a minute')
        : counted('new or returned', 'failures');
    case 'crashes':
      return counted('crashes', 'crashes');
    case 'counter':
      return {
        title: COUNTER_TITLES[watched.part],
        worse: 'above',
        least: 1,
        counted: 'minutes with points',
        value: ({ sum, count }) => sum / count,
        text: metricText(
          watched.part === 'often' ? '' : watched.unit,
          watched.isRate || watched.part === 'often'
        ),
        typed: PLAIN
      };
    case 'measure': {
      const { title, unit } = MEASURES[watched.measure];
      return {
        title,
        worse: 'above',
        least: 1,
        counted: 'minutes with points',
        value: ({ sum, count }) => sum / count,
        text: (value) => measureText(watched.measure, value),
        typed: MEASURED_IN[unit]
      };
    }
    case 'vital': {
      const isScore = watched.vital === 'cls';
      return {
        title: `${VITAL_FACTS[watched.vital].title}, p75`,
        worse: 'above',
        least: LEAST_OF_TAIL,
        counted: 'loads',
        // Of scores the sketch holds millionths, of times microseconds.
        value: ({ sketch }) => sketchQuantiles(sketch, [0.75])[0] * (isScore ? 1e-6 : 1000),
        text: isScore ? (value) => value.toFixed(2) : formatDuration,
        typed: isScore ? PLAIN : MILLISECONDS
      };
    }
  }
}

const MEASURED_IN: Readonly<Record<LineUnit, Figure['typed']>> = {
  share: PERCENT,
  bytes: { unit: 'MB', factor: 1e6 },
  seconds: { unit: 'ms', factor: 1e-3 },
  count: PLAIN,
  cores: { unit: 'cores', factor: 1 }
};

const COUNTER_TITLES = { value: 'value', p95: 'p95', median: 'median', often: 'how often' } as const;

const counted = (title: string, what: string): Figure => ({
  title,
  worse: 'above',
  least: 0,
  counted: what,
  value: ({ hits }) => hits,
  text: (value) => formatFigure(value),
  typed: PLAIN
});

/** The value over some minutes; null where too few tell of it. */
export function valueIn(figure: Figure, cell: Cell, minutes: number): number | null {
  if (cell.count < figure.least) return null;
  const value = figure.value(cell, minutes);
  return Number.isFinite(value) ? value : null;
}
