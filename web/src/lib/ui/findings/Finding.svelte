<script lang="ts">
  import type { Snippet } from 'svelte';
  import type { Severity } from '@tromix/core/findings/finding';
  import FoundSign from './FoundSign.svelte';

  let {
    title,
    severity,
    children,
    actions,
    note = ''
  }: { title: string; severity: Severity; children: Snippet; actions?: Snippet; note?: string } = $props();
  const colour = $derived(severity === 'low' ? 'var(--ink-3)' : 'var(--pen)');
</script>

<section
  class="my-2 rounded-[3px] border border-l-[3px] border-rule bg-paper px-2.5 py-2"
  style:border-left-color={colour}
>
  <h4 class="font-semibold">
    <FoundSign {severity} />
    {title}
  </h4>
  <div class="mt-1 text-pretty">{@render children()}</div>
  {#if actions}<div class="mt-1.5 flex flex-wrap gap-1.5">{@render actions()}</div>{/if}
  {#if note}<p class="mt-1 text-[11px] text-ink-3">{note}</p>{/if}
</section>
