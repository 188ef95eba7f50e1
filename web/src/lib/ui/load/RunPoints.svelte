<script lang="ts">
  import type { LoadReport } from '@tromix/core/load/report';
  import { formatCount, formatDuration, plural } from '@tromix/core/text/format';
  import { durationMark } from '$lib/ui/chart/duration-axis';
  import Chart from '$lib/ui/chart/Chart.svelte';
  import type { ChartTheme } from '$lib/ui/chart/theme';
  import { secondsLabel, us } from './run-words';

  /** Every request of a run by when it ended and how long it took. Those at the same place of the picture are one point. */
  let { report, file }: { report: LoadReport; file: string } = $props();
  const points = $derived(report.points);
  const requests = $derived(points.reduce((sum, { count }) => sum + count, 0));
  const label = $derived(
    `${plural(requests, 'request')} by the time they ended, from ${us(report.figures.minUs)} to ${us(report.figures.maxUs)}.`
  );
  const SIZES = { one: 4, most: 9 };
  const sizeOf = (count: number): number => Math.min(SIZES.most, SIZES.one + Math.log2(count));

  function option(theme: ChartTheme): object {
    const { of, values, tooltip } = theme;
    const series = (failed: boolean): object => ({
      type: 'scatter',
      name: failed ? 'failed' : 'answered',
      symbol: failed ? 'diamond' : 'circle',
      symbolSize: ([, , count]: number[]) => sizeOf(count) + (failed ? 3 : 0),
      itemStyle: { color: failed ? of('alarm') : of('steer'), opacity: failed ? 0.9 : 0.45 },
      data: points
        .filter((point) => point.failed === failed)
        .map(({ atSeconds, responseUs, count }) => [atSeconds, responseUs / 1000, count])
    });
    return {
      grid: { left: 62, right: 46, top: 8, bottom: 20 },
      tooltip: {
        ...tooltip,
        trigger: 'item',
        formatter: ({ value: [at, ms, count], seriesName }: { value: number[]; seriesName: string }) =>
          `${at.toFixed(2)} s: ${formatDuration(ms * 1e6)}${count > 1 ? `, ${formatCount(count)} requests up to this` : ''}, ${seriesName}`
      },
      xAxis: {
        ...values,
        min: 0,
        max: report.bins.bins.length * report.bins.seconds,
        axisLabel: { ...values.axisLabel, formatter: secondsLabel }
      },
      yAxis: {
        ...values,
        min: 0,
        splitNumber: 3,
        axisLabel: { ...values.axisLabel, formatter: durationMark(1e6) }
      },
      series: [series(false), series(true)]
    };
  }
  const legend = $derived([
    { name: 'response time of a request', colour: 'var(--steer)' },
    ...(report.figures.failed > 0 ? [{ name: 'failed', colour: 'var(--alarm)' }] : [])
  ]);
</script>

<Chart {option} height={150} {label} {legend} {file} />
{#if points.length < requests}<p class="px-4 pb-1 text-[11px] text-ink-3">
    {plural(requests, 'request')}, drawn as {plural(points.length, 'point')}: where several lie on one place
    the slowest stands for them, larger the more there are.
  </p>{/if}
