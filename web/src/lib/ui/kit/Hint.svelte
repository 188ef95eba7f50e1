<script lang="ts">
  import { Tooltip } from 'bits-ui';
  import type { Snippet } from 'svelte';
  import { GLOSSARY, type TermKey } from '$lib/glossary';

  /** A word of ours where it first appears on a screen: what it means, on hover and focus. */
  let { of, children }: { of: TermKey; children?: Snippet } = $props();
  const term = $derived(GLOSSARY[of]);
</script>

<Tooltip.Provider delayDuration={300}>
  <Tooltip.Root>
    <Tooltip.Trigger
      class="cursor-help border-b border-dotted border-ink-3 text-left text-inherit"
      style="font: inherit"
      >{#if children}{@render children()}{:else}{term.word}{/if}</Tooltip.Trigger
    >
    <Tooltip.Portal>
      <Tooltip.Content
        role="tooltip"
        class="pop z-50 max-w-72 px-3 py-2 text-[12px] text-pretty text-ink"
        sideOffset={4}
      >
        <b class="font-semibold">{term.word}.</b>
        {term.meaning}
      </Tooltip.Content>
    </Tooltip.Portal>
  </Tooltip.Root>
</Tooltip.Provider>
