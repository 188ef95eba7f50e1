<script lang="ts">
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
  const path = $derived.by(() => {
    let text = `M0 ${HEIGHT}`;
    strip.forEach(
      (busy, i) =>
        (text += `L${(((i + 0.5) / strip.length) * width).toFixed(1)} ${(HEIGHT - 2 - busy * (HEIGHT - 18)).toFixed(1)}`)
    );
    return `${text}L${width} ${HEIGHT}Z`;
  });

  function onpointerdown(event: PointerEvent): void {
    if (event.button !== 0) return;
    const target = event.currentTarget as HTMLElement;
    const bounds = target.getBoundingClientRect();
    const time = (clientX: number): number =>
      (Math.min(width, Math.max(0, clientX - bounds.left)) / width) * durationNs;
    const edge = (event.target as Element).closest<SVGElement>('[data-edge]')?.dataset.edge;
    const fixed = edge && selection ? (edge === 'from' ? selection.to : selection.from) : time(event.clientX);
    const began = event.clientX;
    let latest: { from: number; to: number } | null = null;
    target.setPointerCapture(event.pointerId);
    const move = (moved: PointerEvent): void => {
      if (!latest && Math.abs(moved.clientX - began) < 3) return;
      const other = time(moved.clientX);
      latest = { from: Math.min(fixed, other), to: Math.max(fixed, other) };
      onselect(latest, false);
    };
    const up = (): void => {
      target.removeEventListener('pointermove', move);
      if (latest) onselect(latest, true);
    };
    target.addEventListener('pointermove', move);
    target.addEventListener('pointerup', up, { once: true });
  }

  function onkeydown(event: KeyboardEvent): void {
    if (event.key === 'Escape') onselect(null, true);
    const direction = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (!direction) return;
    event.preventDefault();
    const by = (direction * durationNs) / 50;
    const now = selection ?? { from: 0, to: durationNs / 5 };
    const moved = event.shiftKey
      ? { from: now.from, to: now.to + by }
      : { from: now.from + by, to: now.to + by };
    if (moved.from < 0 || moved.to > durationNs || moved.to <= moved.from) return;
    onselect(selection ? moved : now, true);
  }

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
  ondblclick={() => onselect(null, true)}
>
  <svg class="absolute inset-0" {width} height={HEIGHT} aria-hidden="true">
    {#each Array.from({ length: Math.ceil(width / 18.5) }, (_, i) => i) as i (i)}<path
        d="M{i * 18.5} 0V{HEIGHT}"
        stroke="var(--grid)"
      />{/each}
    <path d={path} fill="var(--steer-soft)" stroke="var(--steer)" stroke-width="1" />
    {#if selection}
      {@const a = x(selection.from)}
      {@const b = Math.max(a + 1, x(selection.to))}
      <rect x={a} width={b - a} height={HEIGHT} fill="var(--pen)" opacity=".12" />
      <path d="M{a} 0V{HEIGHT}M{b} 0V{HEIGHT}" stroke="var(--pen)" stroke-width="1.5" />
      <rect
        data-edge="from"
        x={a - 3}
        y="18"
        width="6"
        height="16"
        rx="2"
        fill="var(--pen)"
        class="cursor-ew-resize"
      />
      <rect
        data-edge="to"
        x={b - 3}
        y="18"
        width="6"
        height="16"
        rx="2"
        fill="var(--pen)"
        class="cursor-ew-resize"
      />
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
