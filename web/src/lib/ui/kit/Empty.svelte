<script lang="ts">
  import type { Snippet } from 'svelte';

  let { title, children }: { title: string; children: Snippet } = $props();
</script>

<div class="grid h-full place-items-center p-8">
  <div class="w-full max-w-xl rounded border border-rule bg-sheet recorder-grid p-6">
    <h2 class="mb-1 text-[15px]">{title}</h2>
    <div class="max-w-md text-ink-2 [&_p]:mb-2">{@render children()}</div>
  </div>
</div>
