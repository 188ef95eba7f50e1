<script lang="ts">
  /** Text with parts between stars set bold. Shown as text, never as markup. */
  let { text }: { text: string } = $props();
  const parts = $derived(text.split('*'));
</script>

<p class="mb-2 text-pretty">
  {#each parts as part, i (i)}{#if i % 2 === 1}<b class="font-[620]">{part}</b>{:else}{part}{/if}{/each}
</p>
