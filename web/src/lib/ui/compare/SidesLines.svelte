<script lang="ts">
  import type { Sides } from '@tromix/core/sides';
  import { formatDuration } from '@tromix/core/text/format';
  import Chart from '$lib/ui/chart/Chart.svelte';
  import { placeMarkup, type Place } from '$lib/ui/chart/facts';
  import type { ChartTheme } from '$lib/ui/chart/theme';
  import { AXIS } from './side-axis';
  import { SIDE_LOOKS } from './side-looks';

  /** A figure of each side over its own time, both from their beginning. */
  interface Props {
    what: string;
    points: Sides<{ atS: number; value: number; facts: Place['facts'] }[]>;
    /** How long the longer side is, seconds. */
    longestS: number;
    format: (value: number) => string;
    file: string;
  }
  let { what, points, longestS, format, file }: Props = $props();
  const places = $derived(
    SIDE_LOOKS.flatMap(({ side, letter }) =>
      points[side].map(({ atS, facts }): Place => ({
        at: `${letter}, ${formatDuration(atS * 1e9)} after it began`,
        facts
      }))
    )
  );

  const option = ({ of, values, tooltip }: ChartTheme): object => ({
    grid: { ...AXIS, top: 10, bottom: 22 },
    tooltip: {
      ...tooltip,
      trigger: 'item',
      formatter: ({ seriesIndex, dataIndex }: { seriesIndex: number; dataIndex: number }) =>
        placeMarkup(places[seriesIndex === 0 ? dataIndex : points.before.length + dataIndex])
    },
    xAxis: {
      ...values,
      min: 0,
      max: longestS,
      axisLabel: { ...values.axisLabel, formatter: (s: number) => (s === 0 ? '0' : formatDuration(s * 1e9)) }
    },
    yAxis: {
      ...values,
      min: 0,
      splitNumber: 3,
      axisLabel: { ...values.axisLabel, formatter: format }
    },
    series: SIDE_LOOKS.map(({ side, token, dashed }) => ({
      type: 'line',
      symbolSize: 4,
      lineStyle: { width: 1.4, color: of(token), type: dashed ? 'dashed' : 'solid' },
      itemStyle: { color: of(token) },
      data: points[side].map(({ atS, value }) => [atS, value])
    }))
  });
</script>

<Chart
  {option}
  height={130}
  label="{what} over the time of each side, at {points.before.length} moments of A and {points.after
    .length} of B."
  {places}
  legend={SIDE_LOOKS.map(({ letter, token, dashed }) => ({
    name: `${letter}, ${what}`,
    colour: `var(--${token})`,
    line: dashed ? ('dashed' as const) : ('solid' as const)
  }))}
  {file}
/>
