<script lang="ts">
  import { page } from '$app/state';
  import type { Scope, TimeWindow } from '$lib/scope';
  import type { Rail } from '$lib/server/queries/rail';
  import type { Names } from '$lib/server/queries/names';
  import { changeScope, currentScope } from './links';
  import { scopeParts, type Which } from './scope-parts';
  import ScopeMenu from './ScopeMenu.svelte';
  import TimeMenu from './TimeMenu.svelte';

  /** The sentence that says what is looked at, each part of it changeable. */
  interface Props {
    which: readonly Which[];
    window: TimeWindow;
    /** What a page about one thing says besides the address. */
    about?: Partial<Scope>;
    /** The scope it says, where it is not that of the address, and what a change of it does. */
    of?: Scope;
    onchange?: (change: Partial<Scope>) => void;
    /** The words it begins with. */
    lead?: string;
  }
  let {
    which,
    window,
    about = {},
    of,
    onchange = (change) => void changeScope(change),
    lead
  }: Props = $props();
  const frame = $derived(page.data as { scope: Scope; names: Names; nowMs: number; rail: Rail });
  const parts = $derived(
    scopeParts(which, { ...(of ?? frame.scope), ...about }, frame.names, window, frame.nowMs, frame.rail.runs)
  );
</script>

{#each parts as part, i (part.about)}
  <!-- A part and the words before it stay together where the sentence takes two lines. -->
  <span class="flex max-w-full min-w-0 items-center gap-[5px] {part.before.startsWith(',') ? '-ml-1' : ''}">
    <span>{i === 0 && lead !== undefined ? lead : part.before}</span>
    {#if part.window}<TimeMenu
        shown={part.shown}
        scope={of ?? currentScope()}
        window={part.window}
        {onchange}
      />
    {:else}<ScopeMenu choice={part} onchoose={(value) => onchange(part.choose(value))} />{/if}
  </span>
{/each}
