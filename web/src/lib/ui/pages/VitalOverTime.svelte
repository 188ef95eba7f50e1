<script lang="ts">
  import { VITAL_FACTS, type Vital } from '@tromix/core/pages/vitals';
  import { formatCount, plural } from '@tromix/core/text/format';
  import type { OnePage } from '$lib/server/queries/pages/one-page';
  import { overBins } from '$lib/ui/chart/bins';
  import Chart from '$lib/ui/chart/Chart.svelte';
  import type { Place } from '$lib/ui/chart/facts';
  import { withDots } from '$lib/ui/chart/gaps';
  import type { ChartTheme } from '$lib/ui/chart/theme';
  import { shortTime } from '$lib/ui/kit/time';
  import type { WatchOffer } from '$lib/ui/watch/offers.svelte';
  import { formatVital } from './vital-words';

  /** A vital at its 75th percentile over time, with its limits, over how many loads there were. */
  interface Props {
    vital: Vital;
    series: OnePage['series'];
    binMs: number;
    fromMs: number;
    toMs: number;
    watch?: WatchOffer | null;
  }
  let { vital, series, binMs, fromMs, toMs, watch = null }: Props = $props();
  const { title, limits } = $derived(VITAL_FACTS[vital]);
  // Every bin takes part, also an empty one: a bar is as wide as the bins are apart.
  const points = $derived.by(() => {
    const known = new Map(series.map((one) => [one.atMs, one]));
    const first = Math.floor(fromMs / binMs) * binMs;
    return Array.from({ length: Math.max(1, Math.ceil((toMs - first) / binMs)) }, (_, i) => {
      const one = known.get(first + i * binMs);
      return { at: first + i * binMs, loads: one?.loads ?? 0, value: one?.p75[vital] ?? null };
    });
  });
  const loads = $derived(series.reduce((sum, one) => sum + one.loads, 0));
  const places = $derived(
    points.map((point): Place => ({
      at: shortTime(point.at),
      x: point.at + binMs / 2,
      facts: [
        { name: 'loads', value: formatCount(point.loads) },
        { name: `${title}, p75`, value: formatVital(vital, point.value) }
      ]
    }))
  );
  const bins = $derived({ series: points, binMs, fromMs, toMs });
  /** The limits are in sight, unless all is far below them. */
  const greatest = $derived(Math.max(0, ...points.map(({ value }) => value ?? 0)));
  const top = $derived(
    greatest > limits[0] ? Math.max(greatest, limits[1]) * 1.08 : Math.max(greatest, limits[0]) * 1.15
  );

  function option(theme: ChartTheme): object {
    const { of, values } = theme;
    const limit = (at: number, name: string): object => ({
      yAxis: at,
      label: { formatter: name, position: 'insideStartTop', color: of('ink-3'), fontSize: 10 },
      lineStyle: { color: of('ink-3'), type: 'dashed', width: 1 }
    });
    return {
      grid: { left: 52, right: 46, top: 10, bottom: 20 },
      ...overBins(bins, places, theme),
      yAxis: [
        {
          ...values,
          min: 0,
          max: top,
          splitNumber: 3,
          axisLabel: {
            ...values.axisLabel,
            formatter: (value: number) => (value === top ? '' : value === 0 ? '0' : formatVital(vital, value))
          }
        },
        { ...values, splitNumber: 2, minInterval: 1, splitLine: { show: false } }
      ],
      series: [
        {
          type: 'bar',
          name: 'loads',
          yAxisIndex: 1,
          barWidth: '92%',
          itemStyle: { color: of('steer'), opacity: 0.18 },
          data: points.map((point) => [point.at + binMs / 2, point.loads])
        },
        {
          type: 'line',
          name: title,
          symbol: 'none',
          itemStyle: { color: of('pen') },
          lineStyle: { width: 1.6, color: of('pen') },
          data: withDots(points.map(({ at, value }) => [at + binMs / 2, value])),
          connectNulls: false,
          markLine: {
            silent: true,
            symbol: 'none',
            data: [
              limit(limits[0], 'good up to here'),
              ...(top > limits[1] ? [limit(limits[1], 'poor from here')] : [])
            ]
          }
        }
      ]
    };
  }
  const legend = $derived([
    { name: 'loads', colour: 'color-mix(in oklab, var(--steer) 18%, var(--sheet))' },
    { name: `${title}, p75`, colour: 'var(--pen)', line: 'solid' as const }
  ]);
</script>

<Chart
  {option}
  height={120}
  label="{title} at the 75th percentile over time, {plural(loads, 'load')}."
  {places}
  {legend}
  file="vital-{vital}"
  {watch}
  narrows
/>
