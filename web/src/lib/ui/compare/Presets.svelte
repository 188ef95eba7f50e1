<script lang="ts">
  import { groupBy } from '@tromix/core/group-by';
  import { comparedQuery } from '$lib/compared-scopes';
  import type { Preset } from '$lib/server/queries/sides/presets';

  /** What may be held against each other from here, each a link. */
  let { presets }: { presets: readonly Preset[] } = $props();
  const groups = $derived([...groupBy([...presets], ({ group }) => group)]);
</script>

<div class="mx-auto grid w-full max-w-4xl gap-x-8 gap-y-4 px-6 py-5 md:grid-cols-2">
  {#each groups as [group, list] (group)}
    <section>
      <h2 class="mb-1 heading">{group}</h2>
      <ul>
        {#each list as { name, sides } (name)}
          <li>
            <a
              class="block rounded-[3px] border-b border-grid px-1 py-1 hover:bg-pen-soft"
              href="/compare?{comparedQuery(sides)}">{name}</a
            >
          </li>
        {/each}
      </ul>
    </section>
  {/each}
</div>
