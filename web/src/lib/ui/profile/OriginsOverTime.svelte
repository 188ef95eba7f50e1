<script lang="ts">
  import type { OriginsOverTime } from '@tromix/core/profile/strip';
  import { formatCount, formatDuration, formatShare } from '@tromix/core/text/format';
  import { durationMark } from '$lib/ui/chart/duration-axis';
  import Chart from '$lib/ui/chart/Chart.svelte';
  import { placeMarkup, type Place } from '$lib/ui/chart/facts';
  import { plainColour, type ChartTheme } from '$lib/ui/chart/theme';
  import { originName, ORIGIN_TINTS } from './origin-names';

  /** CPU by whose code it is, over the length of a profile. */
  let { origins }: { origins: OriginsOverTime } = $props();

  const bins = $derived(origins.weights[0]?.length ?? 0);
  /** The heaviest origins each get a band; the rest are one. */
  const bands = $derived.by(() => {
    const sum = (i: number): number => origins.weights[i].reduce((all, weight) => all + weight, 0);
    const order = origins.origins
      .map((origin, i) => ({ origin, i, sum: sum(i) }))
      .filter(({ origin, sum }) => origin.kind !== 'root' && origin.kind !== 'idle' && sum > 0)
      .sort((a, b) => b.sum - a.sum);
    const rest = order.slice(ORIGIN_TINTS.length - 1);
    const list = order.slice(0, ORIGIN_TINTS.length - 1).map(({ origin, i }, band) => ({
      name: originName(origin),
      tint: ORIGIN_TINTS[band],
      parts: Array.from(origins.weights[i], (weight) => weight / origins.binNs)
    }));
    if (rest.length > 0)
      list.push({
        name: `${formatCount(rest.length)} more`,
        tint: ORIGIN_TINTS[ORIGIN_TINTS.length - 1],
        parts: Array.from(
          { length: bins },
          (_, bin) => rest.reduce((all, { i }) => all + origins.weights[i][bin], 0) / origins.binNs
        )
      });
    return list;
  });
  const places = $derived(
    Array.from({ length: bins }, (_, bin): Place => ({
      at: `at ${formatDuration(bin * origins.binNs)}`,
      facts: bands.map(({ name, parts }) => ({ name, value: formatShare(parts[bin]) }))
    }))
  );

  const option = ({ values, tooltip, of }: ChartTheme): object => ({
    grid: { left: 44, right: 12, top: 8, bottom: 20 },
    tooltip: {
      ...tooltip,
      trigger: 'axis',
      formatter: ([{ dataIndex }]: { dataIndex: number }[]) =>
        placeMarkup(places[Math.min(dataIndex, bins - 1)])
    },
    xAxis: {
      ...values,
      min: 0,
      max: bins * origins.binNs,
      axisLine: { show: true, lineStyle: { color: of('rule') } },
      axisLabel: { ...values.axisLabel, formatter: durationMark(1) }
    },
    yAxis: {
      ...values,
      splitNumber: 2,
      max: ({ max }: { max: number }) => Math.max(1, Math.ceil(max)),
      axisLabel: { ...values.axisLabel, formatter: (part: number) => formatShare(part) }
    },
    series: bands.map(({ name, tint, parts }) => ({
      name,
      type: 'line',
      stack: 'origin',
      step: 'end',
      symbol: 'none',
      lineStyle: { width: 0 },
      areaStyle: { color: plainColour(tint), opacity: 0.9 },
      data: [...parts, parts.at(-1) ?? 0].map((part, bin) => [bin * origins.binNs, part])
    }))
  });
</script>

<Chart
  {option}
  height={132}
  label="CPU of one core by origin of code over time: {bands.map(({ name }) => name).join(', ')}."
  {places}
  legend={bands.map(({ name, tint }) => ({ name, colour: tint }))}
  file="origins-over-time"
/>
