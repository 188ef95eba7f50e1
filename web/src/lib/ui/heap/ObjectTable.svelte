<script lang="ts">
  import { formatCount, plural } from '@tromix/core/text/format';
  import DataTable from '$lib/ui/tables/DataTable.svelte';
  import { bytesColumn, shareColumn, textColumn } from '$lib/ui/tables/column-makers';
  import type { Column } from '$lib/ui/tables/columns';
  import type { ObjectList } from './heap-client';

  interface Props {
    title: string;
    list: ObjectList;
    whole: number;
    hrefOf: (object: number) => string;
    note?: string;
  }
  let { title, list, whole, hrefOf, note = '' }: Props = $props();
  type Row = ObjectList['rows'][number];
  const columns: Column<Row>[] = [
    { key: 'class', title: 'object', width: 240, grows: true, value: ({ className }) => className },
    textColumn('text', 'text', ({ text, root }) => text ?? root, {
      width: 150,
      text: ({ text, root }) => text ?? root
    }),
    bytesColumn('shallow', 'shallow', ({ shallow }) => shallow, { about: 'Bytes of the object itself' }),
    bytesColumn('retained', 'retained', ({ retained }) => retained, {
      about: 'Bytes that would be freed with it'
    }),
    shareColumn('share', 'of the heap', ({ retained }) => retained / Math.max(1, whole), { width: 84 })
  ];
</script>

<DataTable
  label="Objects"
  kind="holder"
  rows={list.rows}
  {columns}
  keyOf={({ object }) => String(object)}
  hrefOf={({ object }) => hrefOf(object)}
  sort="-retained"
  param="objects"
  file="objects"
  empty="No matching objects."
>
  {#snippet head()}<h1 class="text-[13px]">{title}</h1>
    <span class="text-[11px]"
      >{plural(list.total, 'object')}{#if list.total > list.rows.length}, the {formatCount(list.rows.length)} that
        retain most{/if}{note ? ` · ${note}` : ''}</span
    >{/snippet}
  {#snippet cell(row, column)}{#if column.key === 'class'}<span class="num"
        >{row.className} <span class="text-ink-3">#{row.object}</span></span
      >{/if}{/snippet}
</DataTable>
