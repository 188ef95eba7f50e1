<script lang="ts">
  import { closedAxis, lengthOf, placeOn } from '@tromix/core/pages/closed-axis';
  import type { VisitEvent } from '@tromix/core/pages/visit';
  import { formatDuration } from '@tromix/core/text/format';
  import { keepInSight } from './keep-in-sight';

  /** What happened in a visit, one thing a line, on one axis on which idle stretches are closed up. */
  interface Props {
    events: readonly VisitEvent[];
    selected: number;
    onselect: (at: number) => void;
  }
  let { events, selected, onselect }: Props = $props();
  const NAME = 330;
  const AT = 76;
  const PAD = 16;
  const ROW = 24;
  let width = $state(0);
  let body = $state<HTMLDivElement | null>(null);
  const axis = $derived(closedAxis(events));
  const lane = $derived(Math.max(60, width - NAME - AT - PAD));
  const x = (ms: number): number => (placeOn(axis, ms) / Math.max(1, lengthOf(axis))) * lane;
  const idle = $derived(axis.filter(({ isIdle }) => isIdle));
  const LOOKS: Record<VisitEvent['kind'], { sign: string; name: string; colour: string }> = {
    load: { sign: 'P', name: 'page load', colour: 'var(--steer)' },
    step: { sign: '●', name: 'step', colour: 'var(--ink)' },
    call: { sign: 'R', name: 'call', colour: 'var(--acc-remote)' },
    error: { sign: '✕', name: 'error', colour: 'var(--alarm)' }
  };
  const first = $derived(events[0]?.fromMs ?? 0);
  function onkeydown(event: KeyboardEvent): void {
    const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    if (!step || !events[selected + step]) return;
    event.preventDefault();
    onselect(selected + step);
    keepInSight(body, (selected + step + 0.5) * ROW);
  }
  const describe = ({ kind, label, fromMs, toMs, failed }: VisitEvent): string =>
    `${LOOKS[kind].name}: ${label}, ${formatDuration((fromMs - first) * 1e6)} after the first${
      toMs > fromMs ? `, ${formatDuration((toMs - fromMs) * 1e6)} long` : ''
    }${failed ? ', failed' : ''}`;
</script>

<div
  class="relative min-h-0 flex-1 overflow-x-hidden overflow-y-auto border-t border-rule bg-sheet"
  bind:this={body}
  bind:clientWidth={width}
  role="grid"
  data-list
  aria-label="The visit"
  tabindex="0"
  {onkeydown}
>
  <div
    class="sticky top-0 z-20 grid h-6 items-center border-b border-rule bg-paper text-[11px] text-ink-3"
    style:grid-template-columns="{AT}px {NAME}px 1fr"
    role="row"
  >
    <span class="pr-3 text-right" role="columnheader">after</span>
    <span role="columnheader">what happened</span>
    <span role="columnheader">time, idle stretches closed up</span>
  </div>
  <div class="relative" style:height="{events.length * ROW + 22}px">
    <svg
      class="pointer-events-none absolute top-0"
      style:left="{NAME + AT}px"
      width={lane + PAD}
      height={events.length * ROW + 22}
      aria-hidden="true"
    >
      {#each idle as { fromMs, toMs } (fromMs)}
        <rect
          x={x(fromMs)}
          y="0"
          width={Math.max(2, x(toMs) - x(fromMs))}
          height={events.length * ROW}
          fill="var(--grid)"
          opacity="0.7"
        />
        <text
          x={(x(fromMs) + x(toMs)) / 2}
          y={events.length * ROW + 14}
          text-anchor="middle"
          class="fill-ink-3 num text-[10px]">{formatDuration((toMs - fromMs) * 1e6)}</text
        >
      {/each}
    </svg>
    {#each events as event, i (i)}
      {@const { kind, fromMs, toMs, label, failed, cause } = event}
      {@const look = LOOKS[kind]}
      <!-- svelte-ignore a11y_interactive_supports_focus, a11y_click_events_have_key_events -->
      <div
        class="absolute inset-x-0 grid items-center border-b border-grid hover:bg-steer-soft aria-selected:bg-pen-soft"
        style:top="{i * ROW}px"
        style:height="{ROW}px"
        style:grid-template-columns="{AT}px {NAME}px 1fr"
        role="row"
        aria-selected={i === selected}
        aria-label={describe(event)}
        onclick={() => onselect(i)}
      >
        <span class="pr-3 text-right num text-ink-2" role="gridcell"
          >{fromMs === first ? '0' : formatDuration((fromMs - first) * 1e6)}</span
        >
        <span class="flex min-w-0 items-center {cause >= 0 ? 'pl-4' : ''}" role="gridcell">
          <span
            class="mr-1.5 inline-grid size-[15px] flex-none place-items-center font-mono text-[10px] leading-none font-semibold"
            style:color={look.colour}
            title={look.name}
            aria-hidden="true">{look.sign}</span
          >
          <span
            class="truncate {kind === 'step' ? '' : 'font-mono text-[11.5px]'} {kind === 'load'
              ? 'font-semibold'
              : ''} {failed ? 'text-alarm' : ''}"
            title={label}>{failed && kind !== 'error' ? '✕ ' : ''}{label}</span
          >
        </span>
        <span class="relative h-full" role="gridcell">
          {#if kind === 'step' || kind === 'error'}
            <i
              class="absolute top-1/2 size-[9px] -translate-1/2 {kind === 'step'
                ? 'rounded-full'
                : 'rotate-45'}"
              style:left="{x(fromMs)}px"
              style:background={look.colour}
            ></i>
          {:else}
            <i
              class="absolute top-[6px] h-3 rounded-[2px]"
              style:left="{x(fromMs)}px"
              style:width="{Math.max(2, x(toMs) - x(fromMs))}px"
              style:background={look.colour}
            ></i>
          {/if}
        </span>
      </div>
    {/each}
  </div>
</div>
