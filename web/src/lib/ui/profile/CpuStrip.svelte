<script lang="ts">
  import { brush } from '$lib/ui/chart/brush';
  import BrushMarks from '$lib/ui/chart/BrushMarks.svelte';
  import Chart from '$lib/ui/chart/Chart.svelte';
  import type { ChartTheme } from '$lib/ui/chart/theme';
  import { formatDuration, formatShare } from '@tromix/core/text/format';

  interface Props {
    strip: Float32Array;
    durationNs: number;
    /** The selection, nanoseconds from the start; null for the whole. */
    selection: { from: number; to: number } | null;
    onselect: (selection: { from: number; to: number } | null, done: boolean) => void;
  }
  let { strip, durationNs, selection, onselect }: Props = $props();

  const HEIGHT = 54;
  let width = $state(820);
  const x = (ns: number): number => (ns / durationNs) * width;
  const option = ({ of }: ChartTheme): object => ({
    grid: { left: 0, right: 0, top: 16, bottom: 2 },
    xAxis: { type: 'value', show: false, min: 0, max: durationNs },
    yAxis: { type: 'value', show: false, min: 0, max: 1 },
    series: [
      {
        type: 'line',
        silent: true,
        symbol: 'none',
        lineStyle: { width: 1, color: of('steer') },
        areaStyle: { color: of('steer-soft'), opacity: 1 },
        data: Array.from(strip, (busy, i) => [((i + 0.5) / strip.length) * durationNs, busy])
      }
    ]
  });
  const { onpointerdown, onkeydown, ondblclick } = brush({
    whole: () => ({ from: 0, to: durationNs }),
    width: () => width,
    selection: () => selection,
    step: () => durationNs / 50,
    first: () => ({ from: 0, to: durationNs / 5 }),
    onselect: (next, done) => onselect(next, done)
  });

  const busyShare = $derived(strip.reduce((sum, busy) => sum + busy, 0) / Math.max(1, strip.length));
  const words = $derived(
    `CPU of this process over ${formatDuration(durationNs)}, busy ${formatShare(busyShare)}. ${selection ? `Selected ${formatDuration(selection.from)} to ${formatDuration(selection.to)}.` : 'All of it is selected.'} Arrow keys move the selection, Escape clears it.`
  );
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
<div
  class="relative h-[54px] flex-none cursor-crosshair touch-none border-b border-rule bg-sheet select-none"
  bind:clientWidth={width}
  role="application"
  aria-label={words}
  tabindex="0"
  data-testid="cpu-strip"
  {onpointerdown}
  {onkeydown}
  {ondblclick}
>
  <svg class="absolute inset-0" {width} height={HEIGHT} aria-hidden="true">
    {#each Array.from({ length: Math.ceil(width / 18.5) }, (_, i) => i) as i (i)}<path
        d="M{i * 18.5} 0V{HEIGHT}"
        stroke="var(--grid)"
      />{/each}
  </svg>
  <div class="pointer-events-none absolute inset-0" aria-hidden="true">
    <Chart {option} height={HEIGHT} label={words} />
  </div>
  <svg class="absolute inset-0" {width} height={HEIGHT} aria-hidden="true">
    {#if selection}
      <BrushMarks from={x(selection.from)} to={x(selection.to)} height={HEIGHT} edgeTop={18} />
    {/if}
    <text x="6" y="12" font-size="10.5" fill="var(--ink-3)">CPU of this process</text>
    <text
      x={width - 6}
      y="12"
      font-size="10.5"
      text-anchor="end"
      fill="var(--ink-3)"
      font-family="var(--font-mono)">{formatDuration(durationNs)}</text
    >
  </svg>
</div>
