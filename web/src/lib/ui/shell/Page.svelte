<script lang="ts">
  import Hint from '$lib/ui/kit/Hint.svelte';
  import type { Snippet } from 'svelte';
  import PanelRightIcon from '@lucide/svelte/icons/panel-right';
  import { preferences } from './preferences.svelte';
  import ScopeTools from './ScopeTools.svelte';
  import { shellState } from './shell-state.svelte';

  interface Props {
    scope: Snippet;
    children: Snippet;
    reading: Snippet;
  }
  let { scope, children, reading }: Props = $props();
</script>

<div class="grid h-full min-w-0 grid-cols-[minmax(0,1fr)] grid-rows-[auto_minmax(0,1fr)]">
  <header
    class="flex min-h-[44px] min-w-0 items-center gap-[5px] border-b border-rule px-4 py-1 whitespace-nowrap text-ink-2"
  >
    <!-- Of a narrow window the sentence takes two lines. -->
    <div class="flex min-w-0 flex-wrap items-center gap-x-[5px] gap-y-0.5 overflow-x-clip">
      {@render scope()}
    </div>
    <div class="ml-auto flex flex-none items-center gap-0.5"><ScopeTools /></div>
    <button
      class="flex-none rounded-[3px] border border-rule bg-sheet px-2 py-px num text-[11px] text-ink-3"
      onclick={() => (shellState.paletteOpen = true)}>/ find</button
    >
    <button
      class="flex-none rounded-[3px] p-1 text-ink-3 hover:text-ink"
      aria-label={preferences.readingOpen ? 'Fold the reading away' : 'Open the reading'}
      aria-expanded={preferences.readingOpen}
      onclick={() => preferences.toggleReading()}
    >
      <PanelRightIcon size={15} />
    </button>
  </header>
  <div class="flex min-h-0 min-w-0">
    <main id="view" tabindex="-1" class="flex min-w-0 flex-1 flex-col">{@render children()}</main>
    {#if preferences.readingOpen}
      <!-- Scrolls, so it can be reached by the keyboard. -->
      <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
      <aside
        class="w-[292px] flex-none overflow-y-auto border-l border-rule bg-sheet px-4 py-3.5"
        aria-label="Reading"
        tabindex="0"
      >
        <h3 class="mb-1.5 heading"><Hint of="reading" /></h3>
        {@render reading()}
      </aside>
    {/if}
  </div>
</div>
