<script lang="ts">
  import { formatCount, plural } from '@tromix/core/text/format';
  import type { DumpView } from './dump-view.svelte';
  import { MODES } from './modes';
  import { apartWords } from './thread-columns';
  import type { ThreadsState } from './threads-state';

  /** How many dumps and threads there are, by state; each state a filter. */
  interface Props {
    view: DumpView;
    shown: ThreadsState;
    hrefOf: (change: Partial<ThreadsState>) => string;
  }
  let { view, shown, hrefOf }: Props = $props();
  const most = $derived(Math.max(1, ...view.modeCounts.map(({ count }) => count)));
</script>

<div class="flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-rule px-4 py-2 text-ink-2">
  <span>{plural(view.dumps.length, 'dump')}{apartWords(view.apartMs)}</span>
  {#each view.modeCounts as { mode, count } (mode)}
    <a
      class="flex items-center gap-1.5 hover:text-ink aria-pressed:text-ink"
      href={hrefOf({ mode: shown.mode === mode ? '' : mode })}
      role="button"
      aria-pressed={shown.mode === mode}
      ><b class="num font-semibold text-ink">{formatCount(count)}</b>
      {MODES[mode].name}<i
        class="inline-block h-2 {shown.mode === mode ? 'outline-2 outline-pen' : ''}"
        style:width="{Math.max(4, (count / most) * 36)}px"
        style:background={MODES[mode].colour}
      ></i></a
    >
  {/each}
  {#if view.systemCount > 0}
    <a
      class="toggle text-[11px]"
      role="button"
      aria-pressed={shown.system}
      href={hrefOf({ system: !shown.system })}>{formatCount(view.systemCount)} of the runtime</a
    >
  {/if}
  {#if view.daemonCount > 0}
    <a
      class="toggle text-[11px]"
      role="button"
      aria-pressed={shown.daemons}
      title="Daemon threads that wait for work"
      href={hrefOf({ daemons: !shown.daemons })}>{plural(view.daemonCount, 'idle daemon')}</a
    >
  {/if}
</div>
