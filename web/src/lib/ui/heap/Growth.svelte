<script lang="ts">
  import type { HeapDifference } from '@tromix/core/heap/heap-diff';
  import { formatCount } from '@tromix/core/text/format';
  import DataTable from '$lib/ui/tables/DataTable.svelte';
  import { signedBytes } from '$lib/ui/tables/column-makers';
  import { GROWTH_COLUMNS } from './heap-columns';
  import type { HeapState } from './heap-state';

  interface Props {
    difference: HeapDifference;
    hrefOf: (change: Partial<HeapState>) => string;
    onselect: (object: number) => void;
  }
  let { difference, hrefOf, onselect }: Props = $props();
</script>

{#if difference.growthPath.length > 0}
  <section class="border-b border-rule px-4 py-2" aria-label="Where it grew">
    <h2 class="mb-1 text-[13px]">Where in the tree it grew</h2>
    <ol class="flex flex-wrap items-center gap-1 num text-[11px]">
      {#each difference.growthPath as { className, before, after, sample }, i (i)}
        {#if i > 0}<li aria-hidden="true" class="text-ink-3">→</li>{/if}
        <li>
          <button
            class="rounded-[3px] border border-rule bg-sheet px-1.5 py-0.5 text-left hover:bg-pen-soft"
            onclick={() => onselect(sample)}
            >{className.slice(className.lastIndexOf('.') + 1)}{after.count > 1
              ? ` × ${formatCount(after.count)}`
              : ''}<span class="block text-pen"
              >{signedBytes(after.retainedBytes - before.retainedBytes)}</span
            ></button
          >
        </li>
      {/each}
    </ol>
  </section>
{/if}
<DataTable
  label="Growth"
  kind="holder"
  rows={difference.classes}
  columns={GROWTH_COLUMNS}
  keyOf={({ name }) => name}
  hrefOf={({ name }) => hrefOf({ show: 'objects', name, added: true, value: '', least: 0 })}
  sort="-shallow"
  file="growth"
>
  {#snippet head()}<h1 class="text-[13px]">What grew, by class</h1>{/snippet}
  {#snippet cell(row)}<span class="num {row.own ? 'font-semibold' : ''}">{row.name}</span>{/snippet}
</DataTable>
