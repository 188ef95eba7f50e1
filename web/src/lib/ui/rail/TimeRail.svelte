<script lang="ts">
  import { goto } from '$app/navigation';
  import { formatBytes, formatDuration, formatRate, plural } from '@tromix/core/text/format';
  import { kindView } from '$lib/evidence/kinds';
  import type { Sides } from '@tromix/core/sides';
  import type { Scope, TimeWindow } from '$lib/scope';
  import type { Rail } from '$lib/server/queries/rail';
  import { axisTime, shortTime, timeRange } from '$lib/ui/kit/time';
  import { changeScope, evidenceLink } from '$lib/ui/shell/links';
  import { brush, type Stretch } from '$lib/ui/chart/brush';
  import BrushMarks from '$lib/ui/chart/BrushMarks.svelte';
  import Chart from '$lib/ui/chart/Chart.svelte';
  import { withGaps, type LinePoint } from '$lib/ui/chart/gaps';
  import type { ChartTheme } from '$lib/ui/chart/theme';
  import { flagGroups } from '../chart/flag-groups';
  import { railMarks } from './rail-marks.svelte';
  import { ticksOf } from './ticks';

  interface Props {
    rail: Rail;
    scope: Scope;
    nowMs: number;
    /** The times of a comparison, drawn as brackets. */
    sides?: Sides<TimeWindow> | null;
  }
  let { rail, scope, nowMs, sides = null }: Props = $props();

  const PLOT = 70;
  /** Pixels at the right end where the greatest values stand. */
  const FIGURES = 130;
  let width = $state(1112);
  let drag = $state.raw<Stretch | null>(null);

  const fromMs = $derived(rail.window.fromUs / 1000);
  const toMs = $derived(rail.window.toUs / 1000);
  const x = (ms: number): number => ((ms - fromMs) / (toMs - fromMs)) * width;
  const stepMs = $derived(rail.stepMinutes * 60_000);

  const selection = $derived.by((): Stretch | null => {
    if (drag) return drag;
    return scope.from !== undefined && scope.to !== undefined ? { from: scope.from, to: scope.to } : null;
  });

  const maxCount = $derived(Math.max(0, ...rail.points.map(({ count }) => count)) || 1);
  const maxP95 = $derived(Math.max(1, ...rail.points.map(({ p95Ns }) => p95Ns || 0)));
  const maxMemory = $derived(Math.max(1, ...rail.memory.map(({ bytes }) => bytes)));
  const hasMemory = $derived(rail.memory.length > 1);

  /** The lines lie under the marks, on the very scale of the selection: what is measured in a bin stands at its middle. */
  const option = ({ of }: ChartTheme): object => {
    const middle = (at: number): number => Math.min(at + stepMs / 2, toMs);
    const at = (list: readonly LinePoint[]): LinePoint[] => list.map(([ms, value]) => [middle(ms), value]);
    const axis = { show: false };
    return {
      grid: { left: 0, right: 0, top: 0, bottom: 0 },
      xAxis: { ...axis, type: 'time', min: fromMs, max: toMs },
      yAxis: [
        // The counts fill the lower part; the lines begin above the axis, and leave room for the flags.
        { ...axis, min: 0, max: maxCount * (PLOT / 30) },
        { ...axis, min: -maxP95 * (6 / (PLOT - 26)), max: maxP95 * ((PLOT - 6) / (PLOT - 26)) },
        { ...axis, min: 0, max: maxMemory * (PLOT / (PLOT - 26)) }
      ],
      series: [
        {
          type: 'line',
          silent: true,
          symbol: rail.points.length === 1 ? 'rect' : 'none',
          lineStyle: { width: 0 },
          itemStyle: { color: of('steer-soft') },
          areaStyle: { color: of('steer-soft'), opacity: 1 },
          data: at(withGaps(rail.points, stepMs, ({ count }) => count))
        },
        {
          type: 'line',
          silent: true,
          yAxisIndex: 2,
          symbol: 'none',
          lineStyle: { width: 1.2, color: of('acc-own-code'), type: [4, 2] },
          data: hasMemory ? rail.memory.map(({ at: ms, bytes }) => [middle(ms), bytes]) : []
        },
        {
          type: 'line',
          silent: true,
          yAxisIndex: 1,
          symbol: rail.points.length === 1 ? 'circle' : 'none',
          itemStyle: { color: of('steer') },
          lineStyle: { width: 1.3, color: of('steer') },
          data: at(withGaps(rail.points, stepMs, ({ p95Ns }) => p95Ns || 0))
        }
      ]
    };
  };
  const ticks = $derived(ticksOf(fromMs, toMs, Math.max(2, Math.floor(width / 130))));

  const onselect = (next: Stretch | null, done: boolean): void => {
    drag = next && !done ? next : null;
    if (!done) return;
    if (next)
      void changeScope({ from: Math.round(next.from), to: Math.round(next.to) }, scope.from !== undefined);
    else void changeScope({ from: undefined, to: undefined });
  };
  const { onpointerdown, onkeydown, ondblclick } = brush({
    whole: () => ({ from: fromMs, to: toMs }),
    width: () => width,
    selection: () => selection,
    step: () => stepMs,
    first: () => ({ from: toMs - (toMs - fromMs) / 6, to: toMs }),
    beyond: true,
    onselect
  });

  /** A flag at the right end stands where the greatest values do: they make room. */
  const isFlagAtEnd = $derived(rail.flags.some(({ at }) => x(at) > width - FIGURES));

  const summary = $derived(
    `Time rail from ${timeRange(fromMs, toMs, nowMs)}, up to ${formatRate(maxCount)} requests a minute, p95 up to ${formatDuration(maxP95)}${hasMemory ? `, memory up to ${formatBytes(maxMemory)}` : ''}. ` +
      (sides
        ? `Side A is ${timeRange(sides.before.fromUs / 1000, sides.before.toUs / 1000, nowMs)}, side B ${timeRange(sides.after.fromUs / 1000, sides.after.toUs / 1000, nowMs)}. `
        : '') +
      (railMarks.stretches.length > 0
        ? `${plural(railMarks.stretches.length, 'stretch', 'stretches')} marked. `
        : '') +
      (selection ? `Selected ${timeRange(selection.from, selection.to, nowMs)}.` : 'Nothing selected.')
  );
  /** Load runs as brackets, from their start to their end, as far as they lie on the rail. */
  const runPlaces = $derived(
    rail.runs
      .map((run) => ({
        run,
        left: Math.max(0, x(run.startedAtUs / 1000)),
        right: Math.min(width, x(run.endedAtUs === null ? nowMs : run.endedAtUs / 1000))
      }))
      .filter(({ left, right }) => left < width && right > 0)
  );
  const runWords = ({ id, name, startedAtUs }: Rail['runs'][number]): string =>
    `Load run ${id}, ${name}, ${shortTime(startedAtUs / 1000, nowMs)}: ${scope.run === id ? 'shown alone; show everything' : 'show only what it caused'}`;
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
  {ondblclick}
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
  </svg>
  <div class="pointer-events-none absolute inset-x-0 top-0" aria-hidden="true">
    <Chart {option} height={PLOT} label={summary} />
  </div>
  <svg class="absolute inset-0" {width} height="92" aria-hidden="true">
    {#each railMarks.stretches as { from, to } (from)}
      {@const left = Math.max(0, x(from))}
      {@const right = Math.min(width, Math.max(x(to), x(from) + 3))}
      {#if right > 0 && left < width}
        <rect x={left} width={right - left} height={PLOT} fill="var(--alarm)" opacity=".16" />
        <path d="M{left} {PLOT - 2}H{right}" stroke="var(--alarm)" stroke-width="3" />
      {/if}
    {/each}
    {#if sides && !drag}
      {#each [{ letter: 'A', of: sides.before, colour: 'var(--ink-2)' }, { letter: 'B', of: sides.after, colour: 'var(--pen)' }] as { letter, of, colour } (letter)}
        {@const left = Math.max(0, x(of.fromUs / 1000))}
        {@const right = Math.min(width, Math.max(left + 2, x(of.toUs / 1000)))}
        <!-- Of one beginning, the letters stand side by side. -->
        {@const at =
          letter === 'B' && Math.abs(x(sides.before.fromUs / 1000) - x(of.fromUs / 1000)) < 15 ? 16 : 0}
        <g>
          <title>Side {letter}, {timeRange(of.fromUs / 1000, of.toUs / 1000, nowMs)}</title>
          <rect x={left} width={right - left} height={PLOT} fill={colour} opacity=".13" />
          <path d="M{left} 0V{PLOT}M{right} 0V{PLOT}" stroke={colour} stroke-width="1.6" />
          <rect x={left + at} y="18" width="15" height="15" fill={colour} />
          <text
            x={left + at + 7.5}
            y="29.5"
            text-anchor="middle"
            font-size="10.5"
            font-weight="600"
            fill="var(--sheet)">{letter}</text
          >
        </g>
      {/each}
    {:else if selection}
      <BrushMarks from={x(selection.from)} to={x(selection.to)} height={PLOT} edgeTop={26} />
    {/if}
    {#each flagGroups(rail.flags, x, width - FIGURES) as { at, label, length, about }, i (i)}
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
      >requests/min, p95{hasMemory ? ', memory (dashed)' : ''}</text
    >
    <text
      x={width - 8}
      y={isFlagAtEnd ? 28 : 12}
      text-anchor="end"
      paint-order="stroke"
      stroke="var(--sheet)"
      stroke-width="4"
      font-size="10.5"
      fill="var(--ink-3)"
      font-family="var(--font-mono)"
    >
      {rail.points.length > 0
        ? `${formatRate(maxCount)}/min · ${formatDuration(maxP95)}`
        : 'no requests'}{hasMemory ? ` · ${formatBytes(maxMemory)}` : ''}
    </text>
  </svg>
  {#each flagGroups(rail.flags, x, width - FIGURES) as { at, length, about, newest }, i (i)}
    {@const flies = x(at[0]) + length > width - FIGURES}
    <a
      class="absolute top-1 h-3 hover:outline hover:outline-pen"
      style:left="{flies ? x(at[at.length - 1]) - length : x(at[0])}px"
      style:width="{length}px"
      href="/compare/release?{new URLSearchParams({ service: newest.service, release: newest.release })}"
      title="{about}: compare {newest.service} {newest.release} with the release before"
      aria-label="{about}: compare {newest.service} {newest.release} with the release before"
      onpointerdown={(event) => event.stopPropagation()}
    ></a>
  {/each}
  {#each runPlaces as { run, left, right } (run.id)}
    <button
      class="absolute h-[9px] border-x-2 border-t-2 hover:bg-pen-soft {scope.run === run.id
        ? 'border-pen'
        : 'border-ink-2'}"
      style:left="{left}px"
      style:width="{Math.max(8, right - left)}px"
      style:top="{PLOT - 24}px"
      title={runWords(run)}
      aria-label={runWords(run)}
      aria-pressed={scope.run === run.id}
      onpointerdown={(event) => event.stopPropagation()}
      onclick={() => void changeScope({ run: scope.run === run.id ? undefined : run.id })}
    ></button>
  {/each}
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
