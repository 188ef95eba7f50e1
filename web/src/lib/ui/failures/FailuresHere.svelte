<script lang="ts">
  import { plural } from '@tromix/core/text/format';
  import type { Scope } from '$lib/scope';
  import type { FailingGroup } from '$lib/server/queries/failures';
  import { viewLink } from '$lib/ui/shell/links';
  import { failureName, failurePlace, stateWords } from './failure-words';

  /** The most frequent failures that start in a scope; nothing where none does. */
  let { failures, scope = {} }: { failures: readonly FailingGroup[]; scope?: Partial<Scope> } = $props();
</script>

{#if failures.length > 0}
  <section class="mt-3" aria-label="What fails here">
    <h3 class="mb-1 heading">What fails here</h3>
    {#each failures as group (group.id)}
      <a
        class="block border-b border-grid py-1 hover:bg-pen-soft"
        href={viewLink(`/failures/${group.id}`, scope)}
      >
        <span class="flex justify-between gap-2"
          ><span class="truncate font-[560]" title={failureName(group)}>{failureName(group)}</span><span
            class="flex-none num text-ink-2">{plural(group.times, 'time')}</span
          ></span
        >
        <span class="block truncate num text-[11px] text-ink-3"
          >{#if group.mark}{stateWords(group)} ·
          {/if}{failurePlace(group)}</span
        >
      </a>
    {/each}
    <a class="mt-1.5 button" href={viewLink('/failures', scope)}>All failures</a>
  </section>
{/if}
