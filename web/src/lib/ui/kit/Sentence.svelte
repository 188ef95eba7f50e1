<script lang="ts">
  import type { Words } from '@tromix/core/text/words';

  /** A sentence with stressed parts. Shown as text, never as markup. */
  let { text }: { text: Words } = $props();
</script>

<p class="mb-2 text-pretty">
  {#each text as part, i (i)}{#if typeof part === 'string'}{part}{:else}<b class="font-[620]">{part[0]}</b
      >{/if}{/each}
</p>
