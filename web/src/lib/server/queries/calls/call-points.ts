import type { CallRow, CallTotals } from './call-totals';

/** Figures of calls without the sketch behind them. */
export type CallFigures = Omit<CallTotals, 'sketch'>;
export const figures = ({ sketch: _, ...rest }: CallTotals): CallFigures => rest;

export interface CallPoint {
  at: number;
  requests: number;
  calls: number;
  meanNs: number;
  p95Ns: number;
  mostCalls: number;
  totalNs: number;
}

/** Bins of a series at the most. */
export const SERIES_BINS = 90;

/** @param series whose first key is the bin, @param step minutes of one */
export function pointsOf(series: readonly CallRow[], step: number): CallPoint[] {
  return series
    .map(({ keys: [at], totals }) => ({
      at: at * step * 60_000,
      requests: totals.requests,
      calls: totals.calls,
      meanNs: totals.totalNs / totals.calls,
      p95Ns: totals.p95Ns,
      mostCalls: totals.mostCalls,
      totalNs: totals.totalNs
    }))
    .sort((a, b) => a.at - b.at);
}
