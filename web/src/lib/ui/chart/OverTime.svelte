<script lang="ts">
  import { formatCount, formatDuration, plural } from '@tromix/core/text/format';
  import { shortTime } from '$lib/ui/kit/time';
  import { barsInMiddles, overBins, throughMiddles } from './bins';
  import Chart from './Chart.svelte';
  import { durationAxis, durationMark } from './duration-axis';
  import type { Place } from './facts';
  import type { WatchOffer } from '$lib/ui/watch/offers.svelte';
  import type { ChartTheme } from './theme';

  interface Point {
    at: number;
    count: number;
    failed: number;
    p50Ns: number;
    p95Ns: number;
  }
  /** Counts as bars with the failed in them, and p95 over them, the median dashed. */
  interface Props {
    series: Point[];
    binMs: number;
    fromMs: number;
    toMs: number;
    what?: string;
    file?: string;
    watch?: WatchOffer | null;
  }
  let { series, binMs, fromMs, toMs, what = 'request', file = '', watch = null }: Props = $props();

  const busiest = $derived(Math.max(1, ...series.map(({ count }) => count)));
  const longest = $derived(Math.max(1, ...series.map(({ p95Ns }) => p95Ns)));
  const places = $derived(
    series.map(({ at, count, failed, p50Ns, p95Ns }): Place => ({
      at: shortTime(at),
      x: at + binMs / 2,
      facts: [
        { name: `${what}s`, value: formatCount(count) },
        { name: 'failed', value: formatCount(failed) },
        { name: 'median', value: formatDuration(p50Ns) },
        { name: 'p95', value: formatDuration(p95Ns) }
      ]
    }))
  );
  const label = $derived(
    `${plural(
      series.reduce((sum, { count }) => sum + count, 0),
      what
    )} over time, up to ${formatCount(busiest)} in a bar, p95 up to ${formatDuration(longest)}.`
  );

  const bins = $derived({ series, binMs, fromMs, toMs });
  function option(theme: ChartTheme): object {
    const { of, values } = theme;
    const bars = { type: 'bar', stack: 'count', barWidth: '92%' };
    return {
      grid: { left: 46, right: 56, top: 10, bottom: 20 },
      ...overBins(bins, places, theme),
      yAxis: [
        { ...values, splitNumber: 2, minInterval: 1 },
        {
          ...values,
          splitNumber: 2,
          ...durationAxis(longest, 1e6, 2),
          splitLine: { show: false },
          axisLabel: {
            ...values.axisLabel,
            color: of('pen'),
            formatter: durationMark(1e6)
          }
        }
      ],
      series: [
        {
          ...bars,
          name: 'failed',
          itemStyle: { color: of('alarm') },
          barMinHeight: 1.5,
          data: barsInMiddles(bins, ({ failed }) => failed || null)
        },
        {
          ...bars,
          name: `${what}s`,
          itemStyle: { color: of('steer'), opacity: 0.28 },
          data: barsInMiddles(bins, ({ count, failed }) => count - failed)
        },
        {
          type: 'line',
          name: 'p95',
          yAxisIndex: 1,
          symbol: 'none',
          itemStyle: { color: of('pen') },
          lineStyle: { width: 1.4, color: of('pen') },
          data: throughMiddles(bins, ({ p95Ns }) => p95Ns / 1e6)
        },
        {
          type: 'line',
          name: 'median',
          yAxisIndex: 1,
          symbol: 'none',
          itemStyle: { color: of('pen') },
          lineStyle: { width: 1, color: of('pen'), type: 'dashed' },
          data: throughMiddles(bins, ({ p50Ns }) => p50Ns / 1e6)
        }
      ]
    };
  }
  const legend = $derived([
    { name: `${what}s`, colour: 'color-mix(in oklab, var(--steer) 28%, var(--sheet))' },
    { name: 'failed', colour: 'var(--alarm)' },
    { name: 'p95', colour: 'var(--pen)', line: 'solid' as const },
    { name: 'median', colour: 'var(--pen)', line: 'dashed' as const }
  ]);
</script>

<Chart {option} height={96} {label} {places} {legend} {file} {watch} narrows />
