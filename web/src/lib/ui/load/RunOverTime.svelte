<script lang="ts">
  import type { LoadReport } from '@tromix/core/load/report';
  import { formatCount } from '@tromix/core/text/format';
  import Chart from '$lib/ui/chart/Chart.svelte';
  import { placeMarkup, type Place } from '$lib/ui/chart/facts';
  import type { ChartTheme } from '$lib/ui/chart/theme';
  import { perSecond, secondsLabel, us } from './run-words';

  /** Answers per second as bars with the failed in them, and the requests under way as a line, over the time of a run. */
  let { report, file }: { report: LoadReport; file: string } = $props();
  const bins = $derived(report.bins.bins);
  const seconds = $derived(report.bins.seconds);
  const middle = (atSeconds: number): number => atSeconds + seconds / 2;
  const places = $derived(
    bins.map((bin): Place => ({
      at: `${bin.atSeconds.toFixed(seconds < 1 ? 1 : 0)} s`,
      facts: [
        { name: 'answers', value: perSecond(bin.throughput) },
        { name: 'failed', value: formatCount(bin.failed) },
        { name: 'users with one under way', value: formatCount(bin.users) },
        { name: 'under way on average', value: bin.underWay.toFixed(1) },
        { name: 'median', value: us(bin.medianUs) },
        { name: 'p95', value: us(bin.p95Us) }
      ]
    }))
  );
  const most = $derived(Math.max(0, ...bins.map(({ throughput }) => throughput)));
  const crowd = $derived(Math.max(0, ...bins.map(({ underWay }) => underWay)));
  const label = $derived(
    `Answers per second over the run, up to ${perSecond(most)}, with up to ${crowd.toFixed(1)} requests under way.`
  );
  function option(theme: ChartTheme): object {
    const { of, values, tooltip } = theme;
    const bars = { type: 'bar', stack: 'answers', barWidth: '92%' };
    const failedRate = ({ failed }: (typeof bins)[number]): number => failed / seconds;
    return {
      grid: { left: 52, right: 46, top: 8, bottom: 20 },
      tooltip: {
        ...tooltip,
        trigger: 'axis',
        formatter: ([{ value }]: { value: [number] }[]) => {
          const place = places[Math.floor(value[0] / seconds)];
          return place ? placeMarkup(place) : '';
        }
      },
      xAxis: {
        ...values,
        min: 0,
        max: bins.length * seconds,
        axisLabel: { ...values.axisLabel, formatter: secondsLabel }
      },
      yAxis: [
        { ...values, splitNumber: 2 },
        {
          ...values,
          splitNumber: 2,
          splitLine: { show: false },
          axisLabel: { ...values.axisLabel, color: of('pen') }
        }
      ],
      series: [
        {
          ...bars,
          name: 'failed per second',
          itemStyle: { color: of('alarm') },
          data: bins.map((bin) => [middle(bin.atSeconds), failedRate(bin) || null])
        },
        {
          ...bars,
          name: 'answers per second',
          itemStyle: { color: of('steer'), opacity: 0.28 },
          data: bins.map((bin) => [middle(bin.atSeconds), Math.max(0, bin.throughput - failedRate(bin))])
        },
        {
          type: 'line',
          name: 'under way',
          yAxisIndex: 1,
          symbol: bins.length === 1 ? 'circle' : 'none',
          itemStyle: { color: of('pen') },
          lineStyle: { width: 1.4, color: of('pen') },
          data: bins.map((bin) => [middle(bin.atSeconds), bin.underWay])
        }
      ]
    };
  }
  const legend = [
    { name: 'answers per second', colour: 'color-mix(in oklab, var(--steer) 28%, var(--sheet))' },
    { name: 'failed', colour: 'var(--alarm)' },
    { name: 'requests under way', colour: 'var(--pen)', line: 'solid' as const }
  ];
</script>

<Chart {option} height={108} {label} {places} {legend} {file} />
