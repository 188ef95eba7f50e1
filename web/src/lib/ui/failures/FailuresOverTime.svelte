<script lang="ts">
  import { formatCount, plural } from '@tromix/core/text/format';
  import { overBins } from '$lib/ui/chart/bins';
  import type { TakingPart } from '$lib/server/queries/hosts/taking-part';
  import CountersBelow from '$lib/ui/hosts/CountersBelow.svelte';
  import Chart from '$lib/ui/chart/Chart.svelte';
  import type { Place } from '$lib/ui/chart/facts';
  import Flag from '$lib/ui/chart/Flag.svelte';
  import { flagGroups, type FlagGroup, type ReleaseFlag } from '$lib/ui/chart/flag-groups';
  import { flagLines } from '$lib/ui/chart/flag-lines';
  import type { ChartTheme } from '$lib/ui/chart/theme';
  import { shortTime } from '$lib/ui/kit/time';
  import type { WatchOffer } from '$lib/ui/watch/offers.svelte';

  interface Part {
    name: string;
    series: readonly number[];
  }
  /** How often it failed, in bars: some parts by their own shades, the rest together. */
  interface Props {
    parts: readonly Part[];
    /** When the first bin begins. */
    fromMs: number;
    binMs: number;
    toMs: number;
    /** Releases that replaced another. */
    flags?: readonly ReleaseFlag[];
    height?: number;
    file?: string;
    /** Whose counters can be laid below; nobody's where it is one of several. */
    of?: readonly TakingPart[];
    watch?: WatchOffer | null;
  }
  let {
    parts,
    fromMs,
    binMs,
    toMs,
    flags = [],
    height = 84,
    file = '',
    of: taking = [],
    watch = null
  }: Props = $props();
  const LEFT = 46;
  const RIGHT = 12;
  /** From here on a flag has no room behind its line. */
  const LAST_PART = 0.85;
  const lastRoom = $derived(fromMs + LAST_PART * (toMs - fromMs));
  /** So many are told apart. */
  const SHADES = [0.95, 0.62, 0.38];
  const shown = $derived(parts.slice(0, SHADES.length));
  const rest = $derived(parts.slice(SHADES.length));
  const length = $derived(parts[0]?.series.length ?? 0);
  const restSeries = $derived(
    Array.from({ length }, (_, i) => rest.reduce((sum, { series }) => sum + series[i], 0))
  );
  const all = $derived([
    ...shown,
    ...(rest.length > 0 ? [{ name: `${formatCount(rest.length)} others`, series: restSeries }] : [])
  ]);
  // Every bin takes part, also an empty one: a bar is as wide as the bins are apart.
  const bins = $derived(
    Array.from({ length }, (_, i) => {
      const counts = all.map(({ series }) => series[i]);
      return { at: fromMs + i * binMs, counts, sum: counts.reduce((total, count) => total + count, 0) };
    })
  );
  const places = $derived(
    bins.map(({ at, counts, sum }): Place => ({
      at: shortTime(at),
      x: at + binMs / 2,
      facts: [
        { name: 'failures', value: formatCount(sum) },
        ...(all.length > 1
          ? all.flatMap(({ name }, i) => (counts[i] > 0 ? [{ name, value: formatCount(counts[i]) }] : []))
          : [])
      ]
    }))
  );
  const times = $derived(bins.reduce((total, { sum }) => total + sum, 0));
  /** Those that would lie over each other as one, and where they stand, pixels from the left. */
  let groups = $state.raw<(FlagGroup<ReleaseFlag> & { left: number })[]>([]);

  function option(theme: ChartTheme): object {
    const { of, values } = theme;
    return {
      grid: { left: LEFT, right: RIGHT, top: 12, bottom: 20 },
      ...overBins({ series: bins, binMs, fromMs, toMs }, places, theme),
      yAxis: { ...values, splitNumber: 2, minInterval: 1 },
      series: all.map(({ name }, i) => ({
        name,
        type: 'bar',
        stack: 'failures',
        barWidth: '92%',
        itemStyle: { color: i < SHADES.length ? of('alarm') : of('ink-3'), opacity: SHADES[i] ?? 0.5 },
        data: bins.map(({ at, counts }) => [at + binMs / 2, counts[i]]),
        ...(i === 0 &&
          flagLines(
            flags.map(({ at }) => at),
            theme
          ))
      }))
    };
  }
  const legend = $derived(
    all.length > 1
      ? all.map(({ name }, i) => ({
          name: name.length > 60 ? `${name.slice(0, 59)}…` : name,
          colour:
            i < SHADES.length
              ? `color-mix(in oklab, var(--alarm) ${SHADES[i] * 100}%, var(--sheet))`
              : 'color-mix(in oklab, var(--ink-3) 50%, var(--sheet))'
        }))
      : []
  );
</script>

<Chart
  {option}
  {height}
  label="{plural(times, 'failure')} over time."
  {places}
  {legend}
  {file}
  {watch}
  narrows
  ondrawn={(chart) => {
    const x = (at: number): number => Number(chart.convertToPixel({ xAxisIndex: 0 }, at));
    groups = flagGroups(flags, x, x(lastRoom)).map((group) => ({ ...group, left: x(group.at[0]) }));
  }}
>
  {#snippet over()}{#each groups as { at, left, label, about }, i (`${at[0]} ${label}`)}<Flag
        {left}
        top={i % 2 ? 22 : 10}
        {label}
        {about}
        before={at[0] > lastRoom}
      />{/each}{/snippet}
</Chart>
{#if taking.length > 0}
  <CountersBelow of={taking} fromMs={Math.floor(fromMs / binMs) * binMs} {toMs} left={LEFT} right={RIGHT} />
{/if}
