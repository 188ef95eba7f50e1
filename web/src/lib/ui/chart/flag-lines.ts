import type { ChartTheme } from './theme';

/** What draws a line at each of some moments, under the flags that stand over it: part of one series of a chart over time. @param moments epoch milliseconds */
export const flagLines = (moments: readonly number[], { of }: Pick<ChartTheme, 'of'>): object =>
  moments.length === 0
    ? {}
    : {
        markLine: {
          symbol: 'none',
          silent: true,
          lineStyle: { color: of('ink-2'), type: 'solid' },
          label: { show: false },
          data: moments.map((at) => ({ xAxis: at }))
        }
      };
