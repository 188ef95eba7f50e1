<script lang="ts">
  import { distributionsOf } from '@tromix/core/compare/pictures';
  import type { Side, Sides } from '@tromix/core/sides';
  import { formatDuration, formatShare } from '@tromix/core/text/format';
  import Chart from '$lib/ui/chart/Chart.svelte';
  import { placeMarkup, type Place } from '$lib/ui/chart/facts';
  import type { ChartTheme } from '$lib/ui/chart/theme';
  import { SIDE_LOOKS } from './side-looks';

  /** Both sides on one logarithmic axis: the share in each class, or the share up to it. */
  let { durationsNs, curve }: { durationsNs: Sides<Float64Array>; curve: 'classes' | 'up to' } = $props();
  const found = $derived(distributionsOf(durationsNs));
  const values = $derived(found && (curve === 'classes' ? found.shares : found.upTo));
  const places = $derived.by((): Place[] => {
    if (!found) return [];
    return [...found.edgesNs.slice(1)].map((to, i) => ({
      at: `${formatDuration(found.edgesNs[i])} to ${formatDuration(to)}`,
      facts: SIDE_LOOKS.flatMap(({ side, letter }) => [
        { name: `${letter}, in this class`, value: formatShare(found.shares[side][i]) },
        { name: `${letter}, up to here`, value: formatShare(found.upTo[side][i]) }
      ])
    }));
  });
  /** The middle of a class on an axis of logarithms. */
  const at = (i: number): number => Math.log10(Math.sqrt(found!.edgesNs[i] * found!.edgesNs[i + 1]));

  /** Round durations of the axis: 1, 2 and 5 of each power of ten. */
  const ticks = $derived.by(() => {
    if (!found) return [];
    const [low, high] = [found.edgesNs[0], found.edgesNs[found.edgesNs.length - 1]];
    const round = Array.from({ length: 16 }, (_, power) => [1, 2, 5].map((of) => of * 10 ** power)).flat();
    const inside = round.filter((ns) => ns >= low && ns <= high);
    return inside.length > 9 ? inside.filter((ns) => /^1/.test(String(ns))) : inside;
  });

  function option({ of, values: axis, tooltip }: ChartTheme): object {
    if (!found || !values) return {};
    const line = (side: Side, colour: string, dashed: boolean): object => ({
      type: 'line',
      name: side,
      symbol: 'none',
      step: curve === 'classes' ? 'middle' : false,
      lineStyle: { width: 1.6, color: of(colour), type: dashed ? 'dashed' : 'solid' },
      itemStyle: { color: of(colour) },
      areaStyle: curve === 'classes' ? { color: of(colour), opacity: 0.12 } : undefined,
      data: [...values[side]].map((share, i) => [at(i), share])
    });
    return {
      grid: { left: 52, right: 18, top: 10, bottom: 22 },
      tooltip: {
        ...tooltip,
        trigger: 'axis',
        formatter: ([{ dataIndex }]: { dataIndex: number }[]) => placeMarkup(places[dataIndex])
      },
      xAxis: {
        ...axis,
        min: Math.log10(found.edgesNs[0]),
        max: Math.log10(found.edgesNs[found.edgesNs.length - 1]),
        splitLine: { show: false },
        axisTick: { show: true, customValues: ticks.map(Math.log10), lineStyle: { color: of('rule') } },
        axisLabel: {
          ...axis.axisLabel,
          customValues: ticks.map(Math.log10),
          formatter: (power: number) => formatDuration(10 ** power)
        }
      },
      yAxis: {
        ...axis,
        splitNumber: 3,
        ...(curve === 'up to' ? { max: 1 } : {}),
        axisLabel: { ...axis.axisLabel, formatter: (share: number) => formatShare(share) }
      },
      series: SIDE_LOOKS.map(({ side, token, dashed }) => line(side, token, dashed))
    };
  }
</script>

{#if found}
  <Chart
    {option}
    height={150}
    label="Distributions of the durations of both sides, from {formatDuration(
      found.edgesNs[0]
    )} to {formatDuration(found.edgesNs[found.edgesNs.length - 1])}."
    {places}
    legend={SIDE_LOOKS.map(({ letter, token, dashed }) => ({
      name: letter,
      colour: `var(--${token})`,
      line: dashed ? ('dashed' as const) : ('solid' as const)
    }))}
    file="distributions"
  />
{:else}<p class="px-4 py-2 text-ink-3">No single requests are kept to draw.</p>{/if}
