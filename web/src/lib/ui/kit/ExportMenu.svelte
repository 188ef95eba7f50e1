<script lang="ts">
  import ActionMenu from './ActionMenu.svelte';
  import type { Action } from './actions';

  /** What is on the screen as files: the same button everywhere. */
  let { exports }: { exports: Action[] } = $props();
  let menu = $state<ReturnType<typeof ActionMenu> | null>(null);
</script>

{#if exports.length > 0}
  <button class="button" aria-haspopup="menu" onclick={(event) => void menu?.open(event, exports)}
    >Export</button
  >
{/if}
<ActionMenu bind:this={menu} />
