<script lang="ts">
  import { changeScope } from './links';
  import type { ScopePart } from './scope-parts';
  import ScopeMenu from './ScopeMenu.svelte';

  let { parts }: { parts: ScopePart[] } = $props();
</script>

{#each parts as part (part.about)}
  <span class={part.before.startsWith(',') ? '-ml-1' : ''}>{part.before}</span>
  <ScopeMenu choice={part} onchoose={(value) => void changeScope(part.choose(value))} />
{/each}
