<script lang="ts">
  import type { Snippet } from 'svelte';

  /** A part of the page that scrolls by itself; it takes the focus, so that the keyboard scrolls it too. */
  interface Props {
    label: string;
    class?: string;
    children: Snippet;
  }
  let { label, class: more = '', children }: Props = $props();
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
<div class="min-h-0 flex-1 overflow-auto {more}" tabindex="0" role="region" aria-label={label}>
  {@render children()}
</div>
