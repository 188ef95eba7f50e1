<script lang="ts">
  import type { Snippet } from 'svelte';
  import type { Severity } from '@tromix/core/findings/finding';
  import { handOver, type Offer } from '$lib/ui/cases/pins.svelte';
  import ActionMenu from '$lib/ui/kit/ActionMenu.svelte';
  import type { Action } from '$lib/ui/kit/actions';
  import MoreButton from '$lib/ui/kit/MoreButton.svelte';
  import FoundSign from './FoundSign.svelte';

  let {
    title,
    severity,
    children,
    actions,
    note = '',
    offer = () => ({})
  }: {
    title: string;
    severity: Severity;
    children: Snippet;
    actions?: Snippet;
    note?: string;
    /** What is pinned of it, beside its words. */
    offer?: () => Offer;
  } = $props();
  let menu = $state<ReturnType<typeof ActionMenu> | null>(null);
  let body = $state<HTMLElement | null>(null);
  const actionsOf = (): Action[] =>
    handOver(() => ({
      kind: 'finding',
      role: 'cause',
      title,
      sentence: body?.textContent.replace(/\s+/g, ' ').trim() ?? title,
      ...offer()
    }));
  const colour = $derived(severity === 'low' ? 'var(--ink-3)' : 'var(--pen)');
</script>

<section
  class="my-2 rounded-[3px] border border-l-[3px] border-rule bg-paper px-2.5 py-2"
  style:border-left-color={colour}
>
  <div class="flex items-start gap-1">
    <h4 class="font-semibold">
      <FoundSign {severity} />
      {title}
    </h4>
    <span class="ml-auto flex-none"
      ><MoreButton onclick={(event) => void menu?.open(event, actionsOf())} /></span
    >
  </div>
  <div class="mt-1 text-pretty" bind:this={body}>{@render children()}</div>
  {#if actions}<div class="mt-1.5 flex flex-wrap gap-1.5">{@render actions()}</div>{/if}
  {#if note}<p class="mt-1 text-[11px] text-ink-3">{note}</p>{/if}
</section>
<ActionMenu bind:this={menu} />
