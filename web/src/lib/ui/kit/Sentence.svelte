<script lang="ts">
  import type { Words } from '@tromix/core/text/words';

  /** A sentence with stressed parts: those between stars of a text, or those of `Words`. Shown as text, never as markup. */
  let { text }: { text: string | Words } = $props();
  const parts = $derived(
    typeof text === 'string'
      ? text.split('*').map((part, i) => ({ part, stressed: i % 2 === 1 }))
      : text.map((part) =>
          typeof part === 'string' ? { part, stressed: false } : { part: part[0], stressed: true }
        )
  );
</script>

<p class="mb-2 text-pretty">
  {#each parts as { part, stressed }, i (i)}{#if stressed}<b class="font-[620]">{part}</b
      >{:else}{part}{/if}{/each}
</p>
