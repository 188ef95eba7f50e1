<script lang="ts">
  import { SvelteSet } from 'svelte/reactivity';
  import type { ChainStep } from '@tromix/core/pages/chain';
  import type { LoadRow } from '@tromix/core/pages/load-rows';
  import type { PageLoad } from '@tromix/core/pages/page-load';
  import { VITAL_FACTS } from '@tromix/core/pages/vitals';
  import { formatDuration, plural } from '@tromix/core/text/format';
  import { roundTicks } from '$lib/ui/request/round-ticks';
  import { heightOf, loadLines, middles, timesOf, wayPath, type LoadLine } from './load-lines';
  import { keepInSight } from './keep-in-sight';
  import LoadRowLine from './LoadRowLine.svelte';

  /** A load as rows on one axis, with the way to its largest paint drawn through them. */
  interface Props {
    load: PageLoad;
    rows: readonly LoadRow[];
    chain: readonly ChainStep[];
    /** Key of the line that is chosen. */
    selected: string;
    onselect: (key: string) => void;
  }
  let { load, rows, chain, selected, onselect }: Props = $props();

  const NAME = 252;
  const FILES = 44;
  const SIZE = 72;
  const PAD = 14;
  let width = $state(0);
  let body = $state<HTMLDivElement | null>(null);
  const open = new SvelteSet<string>();

  const lines = $derived(loadLines(rows, open));
  const heights = $derived(lines.map(heightOf));
  const total = $derived(heights.reduce((sum, height) => sum + height, 0));
  const y = $derived(middles(lines));
  const paintMs = $derived(load.largest?.atMs ?? null);
  /** What comes much later, as the page is used, is beyond the axis. */
  const untilMs = $derived(
    Math.max(
      (paintMs ?? 0) * 1.2,
      (load.loadedMs ?? 0) * 1.05,
      paintMs === null && load.loadedMs === null ? lastEnd() : 0,
      50
    )
  );
  const lane = $derived(Math.max(60, width - NAME - FILES - SIZE - PAD));
  const x = (ms: number): number => Math.min(1.01, Math.max(0, ms / untilMs)) * lane;
  const ticks = $derived(roundTicks(untilMs * 1e6, Math.max(2, Math.floor(lane / 90))).map((ns) => ns / 1e6));
  const good = VITAL_FACTS.lcp.limits[0];
  const way = $derived(wayPath(chain, lines, x));
  const onWay = $derived(
    new Set(chain.flatMap((step) => (step.of === 'nothing' ? [] : [`${step.of} ${step.index}`])))
  );

  function lastEnd(): number {
    return rows.reduce((last, { toMs }) => Math.max(last, toMs), 0) * 1.05;
  }
  const isOnWay = (row: LoadRow): boolean => row.members.some((index) => onWay.has(`${row.of} ${index}`));

  /** Bars of a row as one path: very many are drawn no slower than few. */
  function barsOf(row: LoadRow, members: readonly number[]): string {
    return members
      .flatMap((index) => {
        const { startMs, endMs } = timesOf(load, row, index);
        if (startMs > untilMs) return [];
        const left = x(startMs);
        const length = Math.max(2, x(endMs) - left - (members.length > 1 ? 0.8 : 0));
        return [`M${left.toFixed(1)} 6h${length.toFixed(1)}v11h${(-length).toFixed(1)}z`];
      })
      .join('');
  }
  const canChoose = ({ kind }: LoadLine): boolean => kind === 'row' || kind === 'member';
  function toggle(row: LoadRow): void {
    if (open.has(row.key)) open.delete(row.key);
    else if (row.members.length > 1) open.add(row.key);
  }
  function onkeydown(event: KeyboardEvent): void {
    const at = lines.findIndex(({ key }) => key === selected);
    const line = lines[at];
    if (event.key === 'ArrowRight' && line?.kind === 'row' && !line.isOpen) toggle(line.row);
    else if (event.key === 'ArrowLeft' && line?.kind === 'row' && line.isOpen) toggle(line.row);
    else if (event.key === 'ArrowLeft' && line?.kind === 'member') onselect(line.row.key);
    else if (event.key === 'ArrowDown' || event.key === 'ArrowUp') {
      const step = event.key === 'ArrowDown' ? 1 : -1;
      let next = at + step;
      while (lines[next] && !canChoose(lines[next])) next += step;
      if (lines[next]) {
        onselect(lines[next].key);
        keepInSight(body, y[next]);
      }
    } else return;
    event.preventDefault();
  }
</script>

<div
  class="relative min-h-0 flex-1 overflow-x-hidden overflow-y-auto border-t border-rule bg-sheet"
  bind:this={body}
  bind:clientWidth={width}
  role="treegrid"
  data-list
  aria-label="What the page loaded"
  tabindex="0"
  {onkeydown}
>
  <div
    class="sticky top-0 z-20 grid h-6 items-center border-b border-rule bg-paper text-[11px] text-ink-3"
    style:grid-template-columns="{NAME}px {FILES}px {SIZE}px 1fr"
    role="row"
  >
    <span class="pl-4" role="columnheader">what</span>
    <span class="pr-1 text-right" role="columnheader">files</span>
    <span class="pr-2 text-right" role="columnheader">size</span>
    <span class="relative h-full" role="columnheader" aria-label="time from the start of the navigation">
      {#each ticks as tick (tick)}<span class="absolute top-1 num text-[11px]" style:left="{x(tick)}px"
          >{tick === 0 ? '0 s' : formatDuration(tick * 1e6)}</span
        >{/each}
    </span>
  </div>
  <div class="relative" style:height="{total + 26}px">
    <svg
      class="pointer-events-none absolute top-0"
      style:left="{NAME + FILES + SIZE}px"
      width={lane + PAD}
      height={total}
      aria-hidden="true"
    >
      {#each ticks as tick (tick)}<path
          d="M{x(tick)} 0V{total}"
          stroke="var(--grid)"
          stroke-width="1.2"
        />{/each}
    </svg>
    {#each lines as line, i (line.key)}
      {@const top = y[i] - heights[i] / 2}
      {#if line.kind === 'heading'}
        <div
          class="absolute inset-x-0 truncate border-b border-rule bg-paper px-4 pt-px text-[11.5px] font-semibold text-ink-2"
          style:top="{top}px"
          style:height="{heights[i]}px"
          role="row"
          tabindex="-1"
        >
          <span role="gridcell">{line.group}</span>
        </div>
      {:else}
        {@const { row } = line}
        {@const members = line.kind === 'member' ? [line.index] : row.members}
        <LoadRowLine
          {line}
          {load}
          {top}
          height={heights[i]}
          columns="{NAME}px {FILES}px {SIZE}px 1fr"
          isSelected={line.key === selected}
          isOnWay={isOnWay(row)}
          bars={width === 0 ? '' : barsOf(row, members)}
          width={lane + PAD}
          laterMs={row.fromMs > untilMs ? row.fromMs : null}
          onchoose={() => canChoose(line) && onselect(line.key)}
          ontoggle={() => toggle(row)}
        />
      {/if}
    {/each}
    <svg
      class="pointer-events-none absolute top-0 z-10 overflow-visible"
      style:left="{NAME + FILES + SIZE}px"
      width={lane + PAD}
      height={total + 24}
      aria-hidden="true"
    >
      {#if good < untilMs}
        <path d="M{x(good)} 0V{total + 6}" stroke="var(--steer)" stroke-dasharray="2 3" stroke-width="1.4" />
        <text x={x(good) - 4} y={total + 18} text-anchor="end" class="fill-steer num text-[11px]">good</text>
      {/if}
      {#if paintMs !== null}
        <path d="M{x(paintMs)} 0V{total + 6}" stroke="var(--alarm)" stroke-width="1.6" />
        <text
          x={x(paintMs) + (x(paintMs) > lane - 90 ? -4 : 4)}
          y={total + 18}
          text-anchor={x(paintMs) > lane - 90 ? 'end' : 'start'}
          class="fill-alarm num text-[11px]">largest paint</text
        >
      {/if}
      <path
        d={width === 0 ? '' : way}
        fill="none"
        stroke="var(--pen)"
        stroke-width="2"
        stroke-linejoin="round"
      />
    </svg>
  </div>
</div>
{#if load.leftOut > 0}<p class="border-t border-rule bg-paper px-4 py-1 text-[11px] text-ink-3">
    {plural(load.leftOut, 'file')} more {load.leftOut === 1 ? 'is' : 'are'} not told: the browser counted {load.leftOut ===
    1
      ? 'it'
      : 'them'} only.
  </p>{/if}
