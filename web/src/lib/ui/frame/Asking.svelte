<script lang="ts">
  import type { Resource } from './resource.svelte';

  /** In place of an answer: that it is awaited, or why there is none and how to ask again. */
  let { of, doing = 'Loading…' }: { of: Resource<unknown>; doing?: string } = $props();
</script>

{#if of.error}
  <div class="p-4" role="alert">
    <p class="mb-2 text-alarm">{of.error}</p>
    <button class="button" onclick={of.again}>Try again</button>
  </div>
{:else if of.asking}<p class="p-4 text-ink-3" role="status">{doing}</p>{/if}
