<script lang="ts">
  import { mediansOverTime } from '@tromix/core/compare/pictures';
  import { eachSide, type Sides } from '@tromix/core/sides';
  import { formatDuration, plural } from '@tromix/core/text/format';
  import type { TimeWindow } from '$lib/scope';
  import Chart from '$lib/ui/chart/Chart.svelte';
  import { placeMarkup, type Place } from '$lib/ui/chart/facts';
  import type { ChartTheme } from '$lib/ui/chart/theme';
  import { SIDE_LOOKS } from './side-looks';

  /** The median of each side over its own time, both from their beginning. */
  interface Props {
    durationsNs: Sides<Float64Array>;
    startsS: Sides<Float32Array>;
    windows: Sides<TimeWindow>;
  }
  let { durationsNs, startsS, windows }: Props = $props();
  const lengthS = $derived(eachSide(windows, ({ fromUs, toUs }) => (toUs - fromUs) / 1e6));
  const found = $derived(
    eachSide(durationsNs, (durations, side) => mediansOverTime(startsS[side], durations, lengthS[side]))
  );
  const longest = $derived(Math.max(lengthS.before, lengthS.after));
  const after = (seconds: number): string => `${formatDuration(seconds * 1e9)} after it began`;
  const places = $derived(
    SIDE_LOOKS.flatMap(({ side, letter }) =>
      found[side].map(({ atS, medianNs, requests }): Place => ({
        at: `${letter}, ${after(atS)}`,
        facts: [
          { name: 'median', value: formatDuration(medianNs) },
          { name: 'of', value: plural(requests, 'request') }
        ]
      }))
    )
  );

  const option = ({ of, values, tooltip }: ChartTheme): object => ({
    grid: { left: 62, right: 18, top: 10, bottom: 22 },
    tooltip: {
      ...tooltip,
      trigger: 'item',
      formatter: ({ seriesIndex, dataIndex }: { seriesIndex: number; dataIndex: number }) =>
        placeMarkup(places[seriesIndex === 0 ? dataIndex : found.before.length + dataIndex])
    },
    xAxis: {
      ...values,
      min: 0,
      max: longest,
      axisLabel: { ...values.axisLabel, formatter: (s: number) => (s === 0 ? '0' : formatDuration(s * 1e9)) }
    },
    yAxis: {
      ...values,
      min: 0,
      splitNumber: 3,
      axisLabel: { ...values.axisLabel, formatter: (ms: number) => formatDuration(ms * 1e6) }
    },
    series: SIDE_LOOKS.map(({ side, token, dashed }) => ({
      type: 'line',
      symbolSize: 4,
      lineStyle: { width: 1.4, color: of(token), type: dashed ? 'dashed' : 'solid' },
      itemStyle: { color: of(token) },
      data: found[side].map(({ atS, medianNs }) => [atS, medianNs / 1e6])
    }))
  });
</script>

{#if places.length > 0}
  <Chart
    {option}
    height={130}
    label="Median over the time of each side, {plural(
      found.before.length,
      'stretch',
      'stretches'
    )} of A and {plural(found.after.length, 'stretch', 'stretches')} of B."
    {places}
    legend={SIDE_LOOKS.map(({ letter, token, dashed }) => ({
      name: `${letter}, median`,
      colour: `var(--${token})`,
      line: dashed ? ('dashed' as const) : ('solid' as const)
    }))}
    file="sides-over-time"
  />
{:else}<p class="px-4 py-2 text-ink-3">No single requests are kept to draw.</p>{/if}
