<script lang="ts">
  import type { EChartsType } from 'echarts/core';
  import type { Snippet } from 'svelte';
  import { toCsv } from '@tromix/core/text/csv';
  import { pinnedPicture } from '$lib/ui/cases/picture';
  import { handOver } from '$lib/ui/cases/pins.svelte';
  import { saveText } from '$lib/ui/kit/save-text';
  import ActionMenu from '$lib/ui/kit/ActionMenu.svelte';
  import ExportMenu from '$lib/ui/kit/ExportMenu.svelte';
  import { offersWatch, watchActions, type WatchOffer } from '$lib/ui/watch/offers.svelte';
  import { preferences } from '$lib/ui/shell/preferences.svelte';
  import { placeWords, type Place } from './facts';
  import { chartTheme, type ChartTheme } from './theme';

  interface LegendItem {
    name: string;
    colour: string;
    /** Tells it apart where colour does not. */
    letter?: string;
    /** It is drawn as a line; else as a filled shape. */
    line?: 'solid' | 'dashed';
  }
  interface Props {
    /** What ECharts draws, in the colours of the theme. */
    option: (theme: ChartTheme) => object;
    height: number;
    /** The whole chart in a sentence. */
    label: string;
    /** What stands at each place of its axis, read by the arrow keys and saved as CSV; none for a picture beside figures. */
    places?: readonly Place[];
    legend?: readonly LegendItem[];
    /** Name of its files; '' for a chart that is not saved. */
    file?: string;
    /** Takes the instance once it has drawn: what lies over it is placed by it. */
    ondrawn?: (chart: EChartsType) => void;
    /** What lies over the chart. */
    over?: Snippet;
    /** What of it can be watched, or put on a board. */
    watch?: WatchOffer | null;
  }
  let {
    option,
    height,
    label,
    places = [],
    legend = [],
    file = '',
    ondrawn,
    over,
    watch = null
  }: Props = $props();

  let menu = $state<ReturnType<typeof ActionMenu> | null>(null);
  let element: HTMLDivElement;
  let chart = $state.raw<EChartsType | undefined>();
  /** Place that is read by the keyboard; −1 for none. */
  let at = $state(-1);

  $effect(() => {
    let alive = true;
    let drawn: EChartsType | undefined;
    const observer = new ResizeObserver(() => {
      drawn?.resize();
      if (drawn) ondrawn?.(drawn);
    });
    // Loaded when the first chart is shown.
    void import('./echarts').then(({ init }) => {
      if (!alive) return;
      chart = drawn = init(element, undefined, { renderer: 'svg' });
      observer.observe(element);
    });
    return () => {
      alive = false;
      observer.disconnect();
      drawn?.dispose();
      chart = undefined;
    };
  });
  $effect(() => {
    void preferences.theme;
    if (!chart) return;
    chart.setOption({ animation: false, ...option(chartTheme()) }, { notMerge: true });
    ondrawn?.(chart);
  });

  function onkeydown(event: KeyboardEvent): void {
    const step = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (!step || places.length === 0) return;
    event.preventDefault();
    at = at < 0 ? (step > 0 ? 0 : places.length - 1) : Math.min(places.length - 1, Math.max(0, at + step));
    chart?.dispatchAction({ type: 'showTip', seriesIndex: 0, dataIndex: at });
  }
  function onblur(): void {
    at = -1;
    chart?.dispatchAction({ type: 'hideTip' });
  }

  const exports = $derived(
    file === ''
      ? []
      : [
          {
            name: 'Figures, CSV',
            run: () =>
              saveText(
                `${file}.csv`,
                toCsv(
                  ['at', ...(places[0]?.facts.map(({ name }) => name) ?? [])],
                  places.map((place) => [place.at, ...place.facts.map(({ value }) => value)])
                )
              )
          },
          {
            name: 'Picture, SVG',
            run: () => {
              const svg = chart?.renderToSVGString();
              if (svg) saveText(`${file}.svg`, svg, 'image/svg+xml');
            }
          },
          ...handOver(() => ({
            kind: 'chart',
            title: label.split(/[,:.]/)[0],
            sentence: label,
            figures: [],
            picture: pinnedPicture(chart?.renderToSVGString() ?? '')
          }))
        ]
  );
</script>

<div class="relative" use:offersWatch={watch ? () => watch : undefined}>
  <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
  <div
    bind:this={element}
    style:height="{height}px"
    role={places.length > 0 ? 'application' : 'img'}
    tabindex={places.length > 0 ? 0 : undefined}
    aria-label={places.length > 0 ? `${label} Arrow keys read the values.` : label}
    {onkeydown}
    {onblur}
  ></div>
  {@render over?.()}
  {#if places.length > 0}<p class="sr-only" aria-live="polite">
      {places[at] ? placeWords(places[at]) : ''}
    </p>{/if}
  {#if legend.length > 0 || exports.length > 0 || watch}
    <div class="flex flex-wrap items-center gap-x-3 gap-y-0.5 px-2 pb-1 text-[11px] text-ink-2">
      {#each legend as { name, colour, letter, line } (name)}
        <span class="inline-flex items-center gap-1"
          ><svg width="14" height="8" aria-hidden="true"
            >{#if line}<path
                d="M0 4H14"
                stroke={colour}
                stroke-width="1.6"
                stroke-dasharray={line === 'dashed' ? '4 2' : undefined}
              />{:else}<rect width="12" height="8" rx="1" fill={colour} />{/if}</svg
          >{#if letter}<b class="num font-normal text-ink-3">{letter}</b>{/if}{name}</span
        >
      {/each}
      {#if exports.length > 0 || watch}<span class="ml-auto flex gap-1"
          >{#if watch}<button
              class="button"
              title="Watch what is drawn here, or put it on a board (w)"
              aria-haspopup="menu"
              onclick={(event) => void menu?.open(event, watchActions(watch))}>Watch</button
            >{/if}<ExportMenu {exports} /></span
        >{/if}
    </div>
  {/if}
</div>
<ActionMenu bind:this={menu} />
