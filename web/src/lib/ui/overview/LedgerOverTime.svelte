<script lang="ts">
  import { ACCOUNTS, type Ledger } from '@tromix/core/trace/account';
  import { formatDuration } from '@tromix/core/text/format';
  import Chart from '$lib/ui/chart/Chart.svelte';
  import { placeMarkup, type Place } from '$lib/ui/chart/facts';
  import Flag from '$lib/ui/chart/Flag.svelte';
  import { flagLines } from '$lib/ui/chart/flag-lines';
  import { withGaps } from '$lib/ui/chart/gaps';
  import { plainColour, type ChartTheme } from '$lib/ui/chart/theme';
  import { LOOKS } from '$lib/ui/ledger/accounts';
  import { axisTime, shortTime, timeRange } from '$lib/ui/kit/time';

  import type { WatchOffer } from '$lib/ui/watch/offers.svelte';

  interface Point {
    at: number;
    ledger: Ledger;
    p50Ns: number;
    p95Ns: number;
  }
  interface Props {
    series: Point[];
    flag?: { at: number; label: string } | null;
    height?: number;
    watch?: WatchOffer | null;
  }
  let { series, flag = null, height = 158, watch = null }: Props = $props();

  /** Where the flag's line stands, pixels from the left. */
  let flagAt = $state(NaN);
  const accounts = $derived(ACCOUNTS.filter((account) => series.some(({ ledger }) => ledger[account] > 0)));
  const words = $derived(
    series.length === 0
      ? 'No requests in this time range.'
      : `Time per request by account from ${timeRange(series[0].at, series.at(-1)!.at)}; at the end ${accounts.map((account) => `${LOOKS[account].name} ${formatDuration(series.at(-1)!.ledger[account])}`).join(', ')}.`
  );
  const places = $derived(
    series.map(({ at, ledger, p50Ns, p95Ns }): Place => ({
      at: shortTime(at),
      facts: [
        ...accounts
          .map((account) => ({
            name: `${LOOKS[account].letter} ${LOOKS[account].name}`,
            value: formatDuration(ledger[account])
          }))
          .reverse(),
        { name: 'median', value: formatDuration(p50Ns) },
        { name: 'p95', value: formatDuration(p95Ns) }
      ]
    }))
  );
  /** The least distance of two points is the length of a bin. */
  const stepMs = $derived(
    series.reduce((least, { at }, i) => (i === 0 ? least : Math.min(least, at - series[i - 1].at)), Infinity)
  );

  function option(theme: ChartTheme): object {
    const { time, values, tooltip } = theme;
    const lengthMs = series.length > 0 ? series.at(-1)!.at - series[0].at : 0;
    return {
      grid: { left: 52, right: 12, top: 12, bottom: 22 },
      tooltip: {
        ...tooltip,
        trigger: 'axis',
        formatter: ([{ value }]: { value: [number] }[]) => {
          const place = series.findIndex(({ at }) => at === value[0]);
          return place < 0 ? '' : placeMarkup(places[place]);
        }
      },
      xAxis: { ...time, axisLabel: { ...time.axisLabel, formatter: (at: number) => axisTime(at, lengthMs) } },
      yAxis: {
        ...values,
        splitNumber: 3,
        axisLabel: { ...values.axisLabel, formatter: (ms: number) => formatDuration(ms * 1e6) }
      },
      series: accounts.map((account, i) => ({
        name: LOOKS[account].name,
        type: 'line',
        stack: 'ledger',
        // A single bin has no area: its points are shown.
        symbol: series.length === 1 ? 'circle' : 'none',
        itemStyle: { color: plainColour(LOOKS[account].flat) },
        lineStyle: { width: 0 },
        areaStyle: { color: plainColour(LOOKS[account].flat), opacity: 0.9 },
        data: withGaps(series, stepMs, ({ ledger }) => ledger[account] / 1e6),
        ...(i === 0 && flagLines(flag ? [flag.at] : [], theme))
      }))
    };
  }
</script>

<Chart
  {option}
  {height}
  label={words}
  {places}
  {watch}
  ondrawn={(chart) => (flagAt = flag ? Number(chart.convertToPixel({ xAxisIndex: 0 }, flag.at)) : NaN)}
>
  {#snippet over()}{#if flag}<Flag left={flagAt} label={flag.label} />{/if}{/snippet}
</Chart>
