<script lang="ts">
  import { formatCount, formatDuration } from '@tromix/core/text/format';
  import type { CallPoint } from '$lib/server/queries/calls/call-points';
  import Chart from '$lib/ui/chart/Chart.svelte';
  import { barsInMiddles, overBins, throughMiddles } from '$lib/ui/chart/bins';
  import type { Place } from '$lib/ui/chart/facts';
  import type { ChartTheme } from '$lib/ui/chart/theme';
  import { shortTime } from '$lib/ui/kit/time';
  import ActionMenu from '$lib/ui/kit/ActionMenu.svelte';
  import MoreButton from '$lib/ui/kit/MoreButton.svelte';
  import { offersWatch, watchActions, type WatchOffer } from '$lib/ui/watch/offers.svelte';
  import type { WatchedOf } from '@tromix/core/watch/watched';

  /** Small charts on one time axis: how often, by how many requests (of one group), how long in all, how long each, and most in one request. */
  interface Props {
    series: CallPoint[];
    fromMs: number;
    toMs: number;
    stepMs: number;
    /** A bin in words. */
    resolution: string;
    /** Of one call group: a request that makes calls of several groups would be counted for each. */
    ofGroup: boolean;
    /** What of one call group can be watched. */
    watchOf?: (figure: WatchedOf<'calls'>['figure']) => WatchOffer;
  }
  let { series, fromMs, toMs, stepMs, resolution, ofGroup, watchOf }: Props = $props();

  let menu = $state<ReturnType<typeof ActionMenu> | null>(null);

  interface Small {
    name: string;
    of: (point: CallPoint) => number;
    text: (value: number) => string;
    line: boolean;
    figure?: WatchedOf<'calls'>['figure'];
  }
  const CHARTS: Small[] = $derived([
    {
      name: `calls per ${resolution}`,
      of: ({ calls }) => calls,
      text: formatCount,
      line: false,
      figure: 'rate'
    },
    ...(ofGroup
      ? [
          {
            name: `requests per ${resolution}`,
            of: ({ requests }: CallPoint) => requests,
            text: formatCount,
            line: false
          }
        ]
      : []),
    { name: `time per ${resolution}`, of: ({ totalNs }) => totalNs, text: formatDuration, line: false },
    { name: 'p95 of a call', of: ({ p95Ns }) => p95Ns, text: formatDuration, line: true, figure: 'p95' },
    { name: 'most in one request', of: ({ mostCalls }) => mostCalls, text: formatCount, line: true }
  ]);
  const placesOf = ({ name, of, text }: Small): Place[] =>
    series.map((point) => ({
      at: shortTime(point.at),
      x: point.at + stepMs / 2,
      facts: [{ name, value: text(of(point)) }]
    }));

  const bins = $derived({ series, binMs: stepMs, fromMs, toMs });
  const optionOf =
    ({ of, line }: Small, places: readonly Place[]) =>
    (theme: ChartTheme): object => {
      const { of: colour, values } = theme;
      const { tooltip, xAxis } = overBins(bins, places, theme);
      return {
        grid: { left: 2, right: 2, top: 4, bottom: 16 },
        tooltip,
        xAxis: {
          ...xAxis,
          splitNumber: 2,
          axisLabel: { ...xAxis.axisLabel, fontSize: 10, alignMinLabel: 'left', alignMaxLabel: 'right' },
          splitLine: { show: false }
        },
        yAxis: { ...values, splitNumber: 2, axisLabel: { show: false } },
        series: [
          line
            ? {
                type: 'line',
                symbol: 'none',
                itemStyle: { color: colour('pen') },
                lineStyle: { width: 1.4, color: colour('pen') },
                data: throughMiddles(bins, of)
              }
            : {
                type: 'bar',
                barWidth: '92%',
                itemStyle: { color: colour('steer'), opacity: 0.4 },
                data: barsInMiddles(bins, of)
              }
        ]
      };
    };
</script>

<div class="flex flex-wrap gap-2 px-4 py-1.5">
  {#each CHARTS as small (small.name)}
    {@const top = Math.max(0, ...series.map(small.of))}
    {@const places = placesOf(small)}
    {@const offer = small.figure && watchOf ? watchOf(small.figure) : null}
    <figure class="min-w-[120px] flex-1" use:offersWatch={() => offer}>
      <figcaption class="grid grid-cols-[minmax(0,1fr)_auto] text-[11px] text-ink-3">
        <span class="truncate" title={small.name}>{small.name}</span>
        {#if offer}<MoreButton onclick={(event) => void menu?.open(event, watchActions(offer))} />{:else}<span
          ></span>{/if}
        <span class="num text-[11px] whitespace-nowrap"
          >{series.length > 0 ? `up to ${small.text(top)}` : '–'}</span
        >
      </figcaption>
      <Chart
        option={optionOf(small, places)}
        height={70}
        label="{small.name} over time, at most {small.text(top)}."
        {places}
        narrows
      />
    </figure>
  {/each}
</div>
<ActionMenu bind:this={menu} />
