<script lang="ts">
  import { ACCOUNTS, type Ledger } from '@tromix/core/trace/account';
  import { formatDuration } from '@tromix/core/text/format';
  import Chart from '$lib/ui/chart/Chart.svelte';
  import { overBins, throughMiddles } from '$lib/ui/chart/bins';
  import { durationAxis, durationMark } from '$lib/ui/chart/duration-axis';
  import type { Place } from '$lib/ui/chart/facts';
  import Flag from '$lib/ui/chart/Flag.svelte';
  import { flagLines } from '$lib/ui/chart/flag-lines';
  import { plainColour, type ChartTheme } from '$lib/ui/chart/theme';
  import { LOOKS } from '$lib/ui/ledger/accounts';
  import { shortTime, timeRange } from '$lib/ui/kit/time';

  import type { WatchOffer } from '$lib/ui/watch/offers.svelte';

  interface Point {
    at: number;
    ledger: Ledger;
    p50Ns: number;
    p95Ns: number;
  }
  /** What a request is made of, by account, in layers over time. */
  interface Props {
    series: Point[];
    binMs: number;
    fromMs: number;
    toMs: number;
    /** Named below it; else the names stand elsewhere. */
    named?: boolean;
    file?: string;
    flag?: { at: number; label: string } | null;
    height?: number;
    /** Pixels beside it, so that it lies on the axis of what is above. */
    left?: number;
    right?: number;
    watch?: WatchOffer | null;
  }
  let {
    series,
    binMs,
    fromMs,
    toMs,
    named = false,
    file = '',
    flag = null,
    height = 158,
    left = 52,
    right = 12,
    watch = null
  }: Props = $props();

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
      x: at + binMs / 2,
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
  const longest = $derived(
    Math.max(0, ...series.map(({ ledger }) => accounts.reduce((sum, account) => sum + ledger[account], 0)))
  );
  const bins = $derived({ series, binMs, fromMs, toMs });

  function option(theme: ChartTheme): object {
    const { values } = theme;
    return {
      grid: { left, right, top: 12, bottom: 22 },
      ...overBins(bins, places, theme),
      yAxis: {
        ...values,
        splitNumber: 3,
        ...durationAxis(longest, 1e6, 3),
        axisLabel: { ...values.axisLabel, formatter: durationMark(1e6) }
      },
      series: accounts.map((account, i) => ({
        name: LOOKS[account].name,
        type: 'line',
        stack: 'ledger',
        symbol: 'none',
        itemStyle: { color: plainColour(LOOKS[account].flat) },
        lineStyle: { width: 0 },
        areaStyle: { color: plainColour(LOOKS[account].flat), opacity: 0.9 },
        data: throughMiddles(bins, ({ ledger }) => ledger[account] / 1e6),
        ...(i === 0 && flagLines(flag ? [flag.at] : [], theme))
      }))
    };
  }
  const legend = $derived(
    named
      ? accounts.map((account) => ({
          name: LOOKS[account].name,
          colour: LOOKS[account].flat,
          letter: LOOKS[account].letter
        }))
      : []
  );
</script>

<Chart
  {option}
  {height}
  label={words}
  {places}
  {legend}
  {file}
  {watch}
  narrows
  ondrawn={(chart) => (flagAt = flag ? Number(chart.convertToPixel({ xAxisIndex: 0 }, flag.at)) : NaN)}
>
  {#snippet over()}{#if flag}<Flag left={flagAt} label={flag.label} />{/if}{/snippet}
</Chart>
