<script lang="ts">
  import type { WatchState } from '@tromix/core/watch/state';
  import type { Severity } from '@tromix/core/watch/watch';

  /** How a watch stands, by its shape and in a word. */
  let {
    state: stands,
    severity,
    silent = false
  }: { state: WatchState; severity: Severity; silent?: boolean } = $props();

  const SHAPES: Record<Severity, string> = { urgent: '▲', warning: '◆', notice: '●' };
  const sign = $derived(
    stands === 'on' ? SHAPES[severity] : stands === 'no data' ? '?' : stands === 'new' ? '…' : '–'
  );
  const colour = $derived(stands !== 'on' ? 'text-ink-3' : severity === 'notice' ? 'text-pen' : 'text-alarm');
</script>

<span class="inline-flex items-baseline gap-1.5 whitespace-nowrap"
  ><span class="w-3 text-center num {colour}" aria-hidden="true">{sign}</span><span
    class={stands === 'on' ? 'font-semibold' : 'text-ink-2'}
    >{stands === 'on' ? severity : stands}{#if silent}<span class="font-normal text-ink-3">, silent</span
      >{/if}</span
  ></span
>
