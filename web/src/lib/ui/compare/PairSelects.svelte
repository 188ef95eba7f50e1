<script lang="ts" generics="K extends EvidenceKind">
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import type { EvidenceKind } from '@tromix/core/evidence/kinds';
  import type { Side, Sides } from '@tromix/core/sides';
  import type { EvidenceItem } from '$lib/server/queries/evidence';
  import { evidenceName } from './evidence-name';

  /** The two pieces of evidence that are held against each other, each chosen from all of its kind. */
  interface Props {
    items: readonly EvidenceItem<K>[];
    chosen: Sides<EvidenceItem<K> | null>;
    /** One of them. */
    noun: string;
    /** What is added to the name of one. */
    more?: (item: EvidenceItem<K>) => string;
  }
  let { items, chosen, noun, more = () => '' }: Props = $props();

  const withSides = (sides: Partial<Sides<string>>): string => {
    const query = new URLSearchParams(page.url.searchParams);
    for (const [side, id] of Object.entries(sides))
      if (id) query.set(side, id);
      else query.delete(side);
    return `${page.url.pathname}?${query}`;
  };
  const pick = (side: Side, id: string): Promise<void> =>
    goto(withSides({ [side]: id }), { keepFocus: true });
</script>

<span class="flex flex-wrap items-center gap-x-1.5">
  Looking at what changed from
  {#each ['before', 'after'] as const as side, i (side)}
    {#if i === 1}to{/if}
    <select
      class="max-w-72 field py-0.5"
      aria-label={side === 'before' ? `The earlier ${noun}` : `The later ${noun}`}
      value={chosen[side]?.id ?? ''}
      onchange={(event) => void pick(side, event.currentTarget.value)}
    >
      <option value="">choose a {noun}</option>
      {#each items as item (item.id)}<option value={item.id}>{evidenceName(item, more(item))}</option>{/each}
    </select>
  {/each}
  <!-- Its room is there from the start: the line would break once both are chosen. -->
  <a
    class={['button', !(chosen.before && chosen.after) && 'invisible']}
    href={withSides({ before: chosen.after?.id, after: chosen.before?.id })}>Swap</a
  >
</span>
