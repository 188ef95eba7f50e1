<script lang="ts">
  import { changeScope, currentScope } from './links';
  import type { ScopePart } from './scope-parts';
  import ScopeMenu from './ScopeMenu.svelte';
  import TimeMenu from './TimeMenu.svelte';

  let { parts }: { parts: ScopePart[] } = $props();
</script>

{#each parts as part (part.about)}
  <span class={part.before.startsWith(',') ? '-ml-1' : ''}>{part.before}</span>
  {#if part.window}<TimeMenu shown={part.shown} scope={currentScope()} window={part.window} />
  {:else}<ScopeMenu choice={part} onchoose={(value) => void changeScope(part.choose(value))} />{/if}
{/each}
