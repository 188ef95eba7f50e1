<script lang="ts" generics="Row">
  import type { Snippet } from 'svelte';
  import type { HTMLAttributes } from 'svelte/elements';
  import { virtualRows } from './virtual-rows';

  /** A list of very many rows of one height, of which only those in view are drawn; one of them is selected. */
  interface Props {
    label: string;
    role?: 'listbox' | 'tree' | 'grid';
    /** Classes of a grid that lay out the head and every row alike. */
    columns: string;
    /** The grid’s columns where their number is known only now. */
    template?: string;
    rows: readonly Row[];
    rowHeight?: number;
    /** Names a row among all elements of the page. */
    idOf: (row: Row, index: number) => string;
    isSelected: (row: Row) => boolean;
    onselect: (row: Row) => void;
    /** Further attributes and events of a row. */
    attributesOf?: (row: Row) => HTMLAttributes<HTMLDivElement>;
    /** Keys besides the arrows up and down. @returns whether it took the key */
    onkey?: (event: KeyboardEvent) => boolean;
    /** Stays in view; in a grid it scrolls sideways with the rows. */
    head: Snippet;
    row: Snippet<[Row]>;
  }
  let {
    label,
    role = 'listbox',
    columns,
    template,
    rows,
    rowHeight = 24,
    idOf,
    isSelected,
    onselect,
    attributesOf = () => ({}),
    onkey = () => false,
    head,
    row: cells
  }: Props = $props();

  const ROW_ROLES = { listbox: 'option', tree: 'treeitem', grid: 'row' } as const;
  let scroller = $state<HTMLDivElement | null>(null);
  const virtualizer = $derived(virtualRows(scroller, rows.length, rowHeight));
  const at = $derived(rows.findIndex(isSelected));

  function onkeydown(event: KeyboardEvent): void {
    const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    if (step) {
      const to = Math.min(rows.length - 1, Math.max(0, at + step));
      if (rows[to]) onselect(rows[to]);
      $virtualizer.scrollToIndex(to);
    } else if (!onkey(event)) return;
    event.preventDefault();
  }
</script>

{#snippet headRow()}
  <div
    class="{columns} border-b border-rule pr-2 {role === 'grid' ? 'sticky top-0 z-10 bg-sheet' : ''}"
    style:grid-template-columns={template}
    role={role === 'grid' ? 'row' : undefined}
  >
    {@render head()}
  </div>
{/snippet}

{#if role !== 'grid'}{@render headRow()}{/if}
<!-- svelte-ignore a11y_no_noninteractive_tabindex (its role is a list box, a tree or a grid) -->
<div
  class="min-h-0 flex-1 overflow-auto"
  bind:this={scroller}
  data-list
  {role}
  aria-label={label}
  tabindex="0"
  aria-activedescendant={at >= 0 ? idOf(rows[at], at) : undefined}
  {onkeydown}
>
  {#if role === 'grid'}{@render headRow()}{/if}
  <div
    class="relative"
    style:height="{$virtualizer.getTotalSize()}px"
    role={role === 'grid' ? 'rowgroup' : 'presentation'}
  >
    {#each $virtualizer.getVirtualItems() as item (item.key)}
      {@const row = rows[item.index]}
      {#if row}
        {@const { class: more = '', ...attributes } = attributesOf(row)}
        <div
          id={idOf(row, item.index)}
          class="{columns} absolute inset-x-0 cursor-pointer border-b border-grid pr-2 num hover:bg-steer-soft aria-selected:bg-pen-soft {more}"
          style:grid-template-columns={template}
          style:height="{rowHeight}px"
          style:transform="translateY({item.start}px)"
          role={ROW_ROLES[role]}
          aria-selected={isSelected(row)}
          onclick={() => onselect(row)}
          {...attributes}
        >
          {@render cells(row)}
        </div>
      {/if}
    {/each}
  </div>
</div>
