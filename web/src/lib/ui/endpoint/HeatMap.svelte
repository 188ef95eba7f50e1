<script lang="ts">
  import { goto } from '$app/navigation';
  import { formatCount, formatDuration, plural } from '@tromix/core/text/format';
  import type { EndpointPage } from '$lib/server/queries/endpoint';
  import { axisTime, timeRange } from '$lib/ui/kit/time';
  import { viewLink } from '$lib/ui/shell/links';
  import { classesOf, classFrom, classOf, durationTicks } from './duration-scale';

  let { page }: { page: EndpointPage } = $props();

  const LEFT = 58;
  const HEIGHT = 190;
  const LOAD = 38;
  let width = $state(780);
  const plot = $derived(Math.max(100, width - LEFT - 14));
  const classes = $derived(classesOf(page.heat.map(({ histogram }) => histogram)));
  const rowHeight = $derived(HEIGHT / classes.count);
  const fromMs = $derived(Math.floor(page.window.fromUs / 1000 / page.stepMs) * page.stepMs);
  const bins = $derived(Math.max(1, Math.ceil((page.window.toUs / 1000 - fromMs) / page.stepMs)));
  const binWidth = $derived(plot / bins);
  const x = $derived((ms: number) => LEFT + ((ms - fromMs) / page.stepMs) * binWidth);
  const y = $derived((ns: number) => HEIGHT - (classOf(ns) - classes.first) * rowHeight);
  const most = $derived(
    Math.max(1, ...page.heat.flatMap(({ histogram }) => histogram.map(([, count]) => count)))
  );
  const busiest = $derived(Math.max(1, ...page.heat.map(({ count }) => count)));
  const ticks = $derived(durationTicks(classes, 7));
  const line = (of: (point: EndpointPage['heat'][number]) => number): string =>
    page.heat
      .map((point, i) => {
        const gap = i > 0 && point.at - page.heat[i - 1].at > page.stepMs * 1.5;
        return `${i === 0 || gap ? 'M' : 'L'}${(x(point.at) + binWidth / 2).toFixed(1)} ${y(of(point)).toFixed(1)}`;
      })
      .join('');
  const timeTicks = $derived(
    Array.from({ length: 6 }, (_, i) => fromMs + Math.round((i * bins) / 6) * page.stepMs)
  );
  const tint = (count: number): number => Math.round(12 + 84 * Math.sqrt(count / most));

  /** Corners of the selection: bin and row, both counted from the lower left. */
  interface Corner {
    bin: number;
    row: number;
  }
  let anchor = $state<Corner | null>(null);
  let cursor = $state<Corner | null>(null);
  let dragging = false;
  const selected = $derived.by(() => {
    if (!anchor || !cursor) return null;
    const [bin0, bin1] = [anchor.bin, cursor.bin].sort((a, b) => a - b);
    const [row0, row1] = [anchor.row, cursor.row].sort((a, b) => a - b);
    return { bin0, bin1, row0, row1 };
  });
  const inside = $derived.by(() => {
    if (!selected) return 0;
    return page.heat
      .filter(({ at }) => {
        const bin = Math.round((at - fromMs) / page.stepMs);
        return bin >= selected.bin0 && bin <= selected.bin1;
      })
      .flatMap(({ histogram }) => histogram)
      .filter(([at]) => at >= classes.first + selected.row0 && at <= classes.first + selected.row1)
      .reduce((sum, [, count]) => sum + count, 0);
  });
  const bounds = $derived(
    selected && {
      from: fromMs + selected.bin0 * page.stepMs,
      to: fromMs + (selected.bin1 + 1) * page.stepMs,
      slower: classFrom(classes.first + selected.row0) / 1e6,
      faster: classFrom(classes.first + selected.row1 + 1) / 1e6
    }
  );
  const three = (ms: number): number => Number(ms.toFixed(3));
  const link = $derived(
    bounds
      ? viewLink('/requests', {
          service: page.service,
          endpoint: page.endpoint,
          from: bounds.from,
          to: bounds.to,
          slower: three(bounds.slower),
          faster: three(bounds.faster)
        })
      : ''
  );

  function cornerAt(event: PointerEvent): Corner {
    const box = (event.currentTarget as SVGElement).getBoundingClientRect();
    const clamp = (value: number, last: number): number => Math.min(last, Math.max(0, Math.floor(value)));
    return {
      bin: clamp((event.clientX - box.left - LEFT) / binWidth, bins - 1),
      row: clamp((HEIGHT - (event.clientY - box.top)) / rowHeight, classes.count - 1)
    };
  }
  function down(event: PointerEvent): void {
    if (event.button !== 0) return;
    (event.currentTarget as SVGElement).setPointerCapture(event.pointerId);
    anchor = cursor = cornerAt(event);
    dragging = true;
  }
  const move = (event: PointerEvent): void => {
    if (dragging) cursor = cornerAt(event);
  };
  function keys(event: KeyboardEvent): void {
    if (event.key === 'Escape') anchor = cursor = null;
    if (event.key === 'Enter' && link) void goto(link);
    const step = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[event.key];
    if (!step) return;
    event.preventDefault();
    const at = cursor ?? { bin: bins - 1, row: Math.floor(classes.count / 2) };
    cursor = {
      bin: Math.min(bins - 1, Math.max(0, at.bin + step[0])),
      row: Math.min(classes.count - 1, Math.max(0, at.row + step[1]))
    };
    if (!event.shiftKey || !anchor) anchor = cursor;
  }
  const words = $derived(
    page.heat.length === 0
      ? 'No requests in this window.'
      : `${plural(page.count, 'request')} over time by duration, median ${formatDuration(page.p50Ns)}, p95 ${formatDuration(page.p95Ns)}. Arrow keys choose a cell, with Shift a rectangle, Enter lists its requests.`
  );
</script>

<div class="relative" bind:clientWidth={width}>
  <!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
  <svg
    {width}
    height={HEIGHT + LOAD + 18}
    class="block cursor-crosshair touch-none select-none"
    role="application"
    aria-label="Latency over time. {words}"
    tabindex="0"
    onpointerdown={down}
    onpointermove={move}
    onpointerup={() => (dragging = false)}
    onkeydown={keys}
  >
    {#each ticks as tick (tick)}
      <path d="M{LEFT} {y(tick)}H{LEFT + plot}" stroke="var(--grid)" />
      <text x={LEFT - 6} y={y(tick) + 4} text-anchor="end" class="fill-ink-3 font-mono text-[11px]"
        >{formatDuration(tick)}</text
      >
    {/each}
    {#each page.heat as point (point.at)}
      {#each point.histogram as [at, count] (at)}
        <rect
          x={x(point.at)}
          y={HEIGHT - (at + 1 - classes.first) * rowHeight}
          width={Math.max(1, binWidth - 0.6)}
          height={Math.max(1, rowHeight - 0.6)}
          fill="color-mix(in oklab, var(--steer) {tint(count)}%, var(--sheet))"
        />
      {/each}
      <rect
        x={x(point.at)}
        y={HEIGHT + LOAD - (point.count / busiest) * (LOAD - 10)}
        width={Math.max(1, binWidth - 1)}
        height={(point.count / busiest) * (LOAD - 10)}
        fill="var(--ink-3)"
        opacity="0.45"
      />
    {/each}
    {#each [{ ms: page.tMs, name: 'T' }, { ms: page.tMs * 4, name: '4T' }] as { ms, name } (name)}
      {#if y(ms * 1e6) > 0 && y(ms * 1e6) < HEIGHT}
        <path d="M{LEFT} {y(ms * 1e6)}H{LEFT + plot}" stroke="var(--alarm)" stroke-dasharray="3 4" />
        <text x={LEFT + plot + 2} y={y(ms * 1e6) + 4} class="fill-alarm font-mono text-[10px]">{name}</text>
      {/if}
    {/each}
    <path d={line(({ p95Ns }) => p95Ns)} fill="none" stroke="var(--pen)" stroke-width="1.4" />
    <path
      d={line(({ p50Ns }) => p50Ns)}
      fill="none"
      stroke="var(--pen)"
      stroke-width="1.4"
      stroke-dasharray="4 3"
    />
    <path d="M{LEFT} {HEIGHT}H{LEFT + plot}M{LEFT} {HEIGHT + LOAD}H{LEFT + plot}" stroke="var(--rule)" />
    <text x={LEFT - 6} y={HEIGHT + LOAD - 14} text-anchor="end" class="fill-ink-3 text-[10px]">requests</text>
    {#each timeTicks as tick (tick)}
      <text x={x(tick)} y={HEIGHT + LOAD + 14} class="fill-ink-3 font-mono text-[11px]"
        >{axisTime(tick, bins * page.stepMs)}</text
      >
    {/each}
    {#if selected}
      <rect
        x={LEFT + selected.bin0 * binWidth}
        y={HEIGHT - (selected.row1 + 1) * rowHeight}
        width={(selected.bin1 - selected.bin0 + 1) * binWidth}
        height={(selected.row1 - selected.row0 + 1) * rowHeight}
        fill="var(--pen)"
        fill-opacity="0.14"
        stroke="var(--pen)"
        stroke-width="1.5"
      />
    {/if}
  </svg>
  <p class="flex min-h-[26px] items-baseline gap-3 pl-[58px] text-[12px] text-ink-2">
    {#if bounds}
      <span aria-live="polite"
        >{plural(inside, 'request')} of {formatDuration(bounds.slower * 1e6)} to {formatDuration(
          bounds.faster * 1e6
        )}, {timeRange(bounds.from, bounds.to)}</span
      >
      <a class="button button-solid" href={link}>List {formatCount(inside)} of them</a>
      <button class="button border-rule text-ink-2" onclick={() => (anchor = cursor = null)}>Clear</button>
    {:else}
      <span class="text-ink-3"
        >Each cell is the requests of one {page.resolution} and duration; the line is p95, dashed the median. Drag
        a rectangle to list its requests.</span
      >
    {/if}
  </p>
</div>
