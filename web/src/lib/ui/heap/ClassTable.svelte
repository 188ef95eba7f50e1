<script lang="ts">
  import Hint from '$lib/ui/kit/Hint.svelte';
  import { formatShare } from '@tromix/core/text/format';
  import type { Action } from '$lib/ui/kit/actions';
  import { saveText } from '$lib/ui/kit/save-text';
  import { viewLink } from '$lib/ui/shell/links';
  import DataTable from '$lib/ui/tables/DataTable.svelte';
  import { classColumns, inOrder, type ClassRow } from './heap-columns';
  import type { HeapOverview } from './heap-client';
  import type { HeapState } from './heap-state';
  import type { HeapView } from './heap-view.svelte';

  interface Props {
    overview: HeapOverview;
    tables: NonNullable<HeapView['tables']>;
    /** Part of the names that are listed. */
    name: string;
    /** The allocations of the process, where they were recorded. */
    allocation: string | null;
    hrefOf: (change: Partial<HeapState>) => string;
    onname: (name: string) => void;
    searchField: HTMLInputElement | null;
  }
  let { overview, tables, name, allocation, hrefOf, onname, searchField = $bindable() }: Props = $props();
  const rows = $derived(
    inOrder(
      tables.classes.filter((row) => row.count > 0 && row.name.toLowerCase().includes(name.toLowerCase()))
    )
  );
  const columns = $derived(
    classColumns(
      { objects: overview.meta.liveObjects, bytes: overview.meta.liveBytes },
      overview.difference && new Map(overview.difference.classes.map((one) => [one.name, one]))
    )
  );
  const shareOf = (row: ClassRow): number => row.retainedBytes / Math.max(1, overview.meta.liveBytes);

  /** A constructor bears the name of its class: by that name the functions are found that make its objects. */
  const madeBy = (row: ClassRow): Action[] =>
    allocation && row.package === 'object'
      ? [
          {
            name: 'Functions that make it',
            href: viewLink(`/profiles/${allocation}`, {}, { show: 'leaves', find: row.name })
          }
        ]
      : [];

  function exportJson(): void {
    const { meta, difference } = overview;
    const all = { ...meta, ...tables, growth: difference };
    saveText('heap.json', JSON.stringify(all, null, 1), 'application/json');
  }
</script>

<div class="flex min-h-0 flex-1 flex-col border-t border-rule">
  <DataTable
    label="Classes"
    kind="holder"
    {rows}
    {columns}
    keyOf={(row) => row.name}
    hrefOf={(row) => hrefOf({ show: 'objects', name: row.name, value: '', least: 0, added: false })}
    actionsOf={madeBy}
    sort=""
    file="classes"
    rowHeight={27}
  >
    {#snippet head()}
      <h2 class="text-[13px]">
        Classes by <Hint of="retained">retained size</Hint><span class="font-normal text-ink-2"
          >, the program’s own first</span
        >
      </h2>
      <input
        class="w-44 field py-0"
        placeholder="Classes like"
        aria-label="Classes like"
        bind:this={searchField}
        value={name}
        onchange={(event) => onname(event.currentTarget.value)}
      />
      <button class="button border-rule text-ink-2" onclick={exportJson}>JSON</button>
    {/snippet}
    {#snippet cell(row, column)}
      {#if column.key === 'class'}<span
          class="num {row.own ? 'font-semibold' : ''}"
          title={row.own ? 'the program’s own' : undefined}>{row.name}</span
        >
      {:else}<span class="flex items-center gap-2"
          ><i class="h-2.5 bg-pen opacity-70" style:width="{Math.max(1, shareOf(row) * 110)}px"></i>
          <span class="num">{formatShare(shareOf(row))}</span></span
        >{/if}
    {/snippet}
  </DataTable>
</div>
