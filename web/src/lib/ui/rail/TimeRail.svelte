<script lang="ts">
  import { goto } from '$app/navigation';
  import { formatBytes, formatDuration, formatRate } from '@tromix/core/text/format';
  import { kindView } from '$lib/evidence/kinds';
  import type { Scope } from '$lib/scope';
  import type { Rail } from '$lib/server/queries/rail';
  import { axisTime, shortTime, timeRange } from '$lib/ui/kit/time';
  import { changeScope, evidenceLink } from '$lib/ui/shell/links';
  import { flagGroups } from './flags';
  import { ticksOf } from './ticks';

  let { rail, scope, nowMs }: { rail: Rail; scope: Scope; nowMs: number } = $props();

  const PLOT = 70;
  /** Pixels at the right end where the greatest values stand. */
  const FIGURES = 130;
  const MIN_DRAG_PX = 4;
  let width = $state(1112);
  let drag = $state<{ from: number; to: number } | null>(null);

  const fromMs = $derived(rail.window.fromUs / 1000);
  const toMs = $derived(rail.window.toUs / 1000);
  const x = (ms: number): number => ((ms - fromMs) / (toMs - fromMs)) * width;
  const time = (px: number): number => fromMs + (Math.min(width, Math.max(0, px)) / width) * (toMs - fromMs);
  const stepMs = $derived(rail.stepMinutes * 60_000);

  const selection = $derived.by(() => {
    if (drag) return { from: Math.min(drag.from, drag.to), to: Math.max(drag.from, drag.to) };
    return scope.from !== undefined && scope.to !== undefined ? { from: scope.from, to: scope.to } : null;
  });

  const maxCount = $derived(Math.max(0, ...rail.points.map(({ count }) => count)) || 1);
  const maxP95 = $derived(Math.max(1, ...rail.points.map(({ p95Ns }) => p95Ns || 0)));
  /** Bins without requests end the line: nothing is drawn where nothing was measured. */
  const runs = $derived.by(() => {
    const out: (typeof rail.points)[] = [];
    for (const point of rail.points) {
      const last = out.at(-1)?.at(-1);
      if (last && point.at - last.at <= stepMs * 1.5) out.at(-1)!.push(point);
      else out.push([point]);
    }
    return out;
  });
  const middle = (at: number): number => x(Math.min(at + stepMs / 2, toMs));
  const area = $derived(
    runs
      .map((run) => {
        const top = run
          .map((point) => `${middle(point.at)} ${PLOT - (point.count / maxCount) * 30}`)
          .join('L');
        return `M${x(run[0].at)} ${PLOT}L${top}L${x(run.at(-1)!.at + stepMs)} ${PLOT}Z`;
      })
      .join('')
  );
  const line = $derived(
    runs
      .map(
        (run) =>
          `M${run.map((point) => `${middle(point.at)} ${PLOT - 6 - (point.p95Ns / maxP95) * (PLOT - 26)}`).join('L')}`
      )
      .join('')
  );
  const maxMemory = $derived(Math.max(1, ...rail.memory.map(({ bytes }) => bytes)));
  const memoryLine = $derived(
    rail.memory.length > 1
      ? `M${rail.memory.map(({ at, bytes }) => `${middle(at)} ${PLOT - (bytes / maxMemory) * (PLOT - 26)}`).join('L')}`
      : ''
  );
  const ticks = $derived(ticksOf(fromMs, toMs, Math.max(2, Math.floor(width / 130))));

  function select(from: number, to: number): void {
    void changeScope({ from: Math.round(from), to: Math.round(to) }, scope.from !== undefined);
  }
  const clear = (): void => void changeScope({ from: undefined, to: undefined });

  function onpointerdown(event: PointerEvent): void {
    if (event.button !== 0) return;
    const target = event.currentTarget as HTMLElement;
    const edge = (event.target as HTMLElement).closest<SVGElement>('[data-edge]')?.dataset.edge;
    const left = target.getBoundingClientRect().left;
    target.setPointerCapture(event.pointerId);
    const began = event.clientX;
    const fixed =
      edge && selection ? (edge === 'from' ? selection.to : selection.from) : time(event.clientX - left);
    const move = (moved: PointerEvent): void => {
      if (!drag && Math.abs(moved.clientX - began) < MIN_DRAG_PX) return;
      drag = { from: fixed, to: time(moved.clientX - left) };
    };
    const up = (): void => {
      target.removeEventListener('pointermove', move);
      const done = selection;
      const dragged = drag !== null;
      drag = null;
      if (dragged && done && done.to > done.from) select(done.from, done.to);
    };
    target.addEventListener('pointermove', move);
    target.addEventListener('pointerup', up, { once: true });
  }

  function onkeydown(event: KeyboardEvent): void {
    if (event.key === 'Escape' && selection) {
      clear();
      return;
    }
    const direction = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (!direction) return;
    event.preventDefault();
    const now = selection ?? { from: toMs - (toMs - fromMs) / 6, to: toMs };
    const by = direction * stepMs;
    if (!selection) select(now.from, now.to);
    else if (event.shiftKey) select(now.from, Math.max(now.from + stepMs, now.to + by));
    else select(now.from + by, now.to + by);
  }

  const summary = $derived(
    `Time rail from ${timeRange(fromMs, toMs, nowMs)}, up to ${formatRate(maxCount)} requests a minute, p95 up to ${formatDuration(maxP95)}${memoryLine ? `, memory up to ${formatBytes(maxMemory)}` : ''}. ` +
      (selection ? `Selected ${timeRange(selection.from, selection.to, nowMs)}.` : 'Nothing selected.')
  );
  const PIN_PX = 20;
  /** Pins of the same moment stand side by side. */
  const pinPlaces = $derived.by(() => {
    let last = -Infinity;
    return rail.pins.map((pin) => {
      last = Math.max(x(pin.at), last + PIN_PX);
      return { pin, left: last };
    });
  });
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
<div
  class="relative cursor-crosshair touch-none border-t border-rule bg-sheet select-none"
  role="application"
  aria-label={summary}
  tabindex="0"
  bind:clientWidth={width}
  {onpointerdown}
  {onkeydown}
  ondblclick={clear}
>
  <svg class="absolute inset-0" {width} height="92" aria-hidden="true">
    {#each Array.from({ length: Math.ceil(width / 18.5) }, (_, i) => i) as i (i)}
      <path d="M{i * 18.5} 0V{PLOT}" stroke="var(--grid)" stroke-width={i % 5 === 0 ? 1.2 : 0.6} />
    {/each}
    {#each [7, 16, 25, 34, 43, 52, 61] as y (y)}<path
        d="M0 {y}H{width}"
        stroke="var(--grid)"
        stroke-width=".6"
      />{/each}
    <path d={area} fill="var(--steer-soft)" />
    {#if memoryLine}<path
        d={memoryLine}
        fill="none"
        stroke="var(--acc-own-code)"
        stroke-width="1.2"
        stroke-dasharray="4 2"
      />{/if}
    <path d={line} fill="none" stroke="var(--steer)" stroke-width="1.3" stroke-linejoin="round" />
    {#if selection}
      {@const a = x(selection.from)}
      {@const b = x(selection.to)}
      <rect x={a} width={Math.max(1, b - a)} height={PLOT} fill="var(--pen)" opacity=".1" />
      <path d="M{a} 0V{PLOT}M{b} 0V{PLOT}" stroke="var(--pen)" stroke-width="1.6" />
      <rect
        data-edge="from"
        x={a - 4}
        y="26"
        width="8"
        height="18"
        rx="2"
        fill="var(--pen)"
        class="cursor-ew-resize"
      />
      <rect
        data-edge="to"
        x={b - 4}
        y="26"
        width="8"
        height="18"
        rx="2"
        fill="var(--pen)"
        class="cursor-ew-resize"
      />
    {/if}
    {#each flagGroups(rail.flags, x) as { at, label, length, about }, i (i)}
      <!-- Near the right end it flies to the left, off the figures there. -->
      {@const side = x(at[0]) + length > width - FIGURES ? -1 : 1}
      <g>
        <title>{about}</title>
        {#each at as one, k (k)}<path d="M{x(one)} 0V{PLOT}" stroke="var(--ink-2)" />{/each}
        <g transform="translate({x(side > 0 ? at[0] : at[at.length - 1])} 0)">
          <path d="M0 4h{side * length}l{side * -5} 6 {side * 5} 6H0z" fill="var(--ink-2)" />
          <text
            x={side * 4}
            y="14"
            text-anchor={side > 0 ? 'start' : 'end'}
            font-size="10"
            fill="var(--paper)"
            font-family="var(--font-mono)">{label}</text
          >
        </g>
      </g>
    {/each}
    <path d="M0 {PLOT}H{width}" stroke="var(--rule)" />
    {#each ticks as tick (tick)}
      <text
        x={x(tick)}
        y="86"
        text-anchor="middle"
        font-size="11"
        fill="var(--ink-3)"
        font-family="var(--font-mono)">{axisTime(tick, toMs - fromMs)}</text
      >
    {/each}
    <text x="8" y="12" font-size="10.5" fill="var(--ink-3)"
      >requests/min, p95{memoryLine ? ', memory (dashed)' : ''}</text
    >
    <text
      x={width - 8}
      y="12"
      text-anchor="end"
      font-size="10.5"
      fill="var(--ink-3)"
      font-family="var(--font-mono)"
    >
      {rail.points.length > 0
        ? `${formatRate(maxCount)}/min · ${formatDuration(maxP95)}`
        : 'no requests'}{memoryLine ? ` · ${formatBytes(maxMemory)}` : ''}
    </text>
  </svg>
  {#each pinPlaces as { pin, left } (pin.id)}
    <button
      class="absolute grid h-[15px] w-[18px] -translate-x-1/2 place-items-center rounded-[3px] bg-ink text-[10px] leading-none text-paper"
      style:left="{left}px"
      style:top="{PLOT - 9}px"
      title="{pin.label}, {shortTime(pin.at, nowMs)}"
      aria-label="{pin.label}, {shortTime(pin.at, nowMs)}"
      onpointerdown={(event) => event.stopPropagation()}
      onclick={() => void goto(evidenceLink(pin))}>{kindView(pin.kind).sign}</button
    >
  {/each}
</div>
