<script lang="ts">
  import type { Snippet } from 'svelte';

  /** A field of a form under its name. */
  let { label, children, grows = false }: { label: string; children: Snippet; grows?: boolean } = $props();
</script>

<label class="flex flex-col text-[11px] text-ink-2 {grows ? 'min-w-0 flex-1' : ''}"
  >{label}
  {@render children()}</label
>
