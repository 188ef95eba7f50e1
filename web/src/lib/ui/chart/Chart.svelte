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
  import { changeScope, currentScope } from '$lib/ui/shell/links';
  import { preferences } from '$lib/ui/shell/preferences.svelte';
  import type { Stretch } from './brush';
  import { drag } from './drag';
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
    /** Its axis is the time of the scope: dragging on it selects a window, as on the time rail. */
    narrows?: boolean;
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
    watch = null,
    narrows = false
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

  /** What is being dragged over, pixels from the left. */
  let dragged = $state.raw<Stretch | null>(null);
  function onpointerdown(event: PointerEvent): void {
    if (!narrows || event.button !== 0 || !chart) return;
    const drawn = chart;
    const { left } = element.getBoundingClientRect();
    const from = event.clientX - left;
    drag(event, {
      move: ({ clientX }) => {
        const to = Math.min(element.clientWidth, Math.max(0, clientX - left));
        dragged = { from: Math.min(from, to), to: Math.max(from, to) };
      },
      end: () => {
        if (!dragged) return;
        const timeAt = (px: number): number =>
          Math.round(Number(drawn.convertFromPixel({ xAxisIndex: 0 }, px)));
        const window = { from: timeAt(dragged.from), to: timeAt(dragged.to) };
        dragged = null;
        void changeScope(window, currentScope().from !== undefined);
      }
    });
  }
  const ondblclick = (): void => {
    if (narrows) void changeScope({ from: undefined, to: undefined });
  };

  function onkeydown(event: KeyboardEvent): void {
    const step = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (!step || places.length === 0) return;
    event.preventDefault();
    at = at < 0 ? (step > 0 ? 0 : places.length - 1) : Math.min(places.length - 1, Math.max(0, at + step));
    const x = places[at].x;
    const px = x === undefined ? NaN : Number(chart?.convertToPixel({ xAxisIndex: 0 }, x));
    // A series may hold more than the places: bins without data too.
    chart?.dispatchAction({
      type: 'showTip',
      ...(Number.isFinite(px) ? { x: px, y: height / 2 } : { seriesIndex: 0, dataIndex: at })
    });
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
    class={narrows ? 'touch-none' : ''}
    title={narrows ? 'Drag to look at a part of the time; double-click for all of it' : undefined}
    {onkeydown}
    {onblur}
    {onpointerdown}
    {ondblclick}
  ></div>
  {#if dragged}<div
      class="pointer-events-none absolute top-0 border-x border-pen bg-pen opacity-20"
      style:left="{dragged.from}px"
      style:width="{dragged.to - dragged.from}px"
      style:height="{height}px"
    ></div>{/if}
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
