<script lang="ts" generics="Row">
  import type { Snippet } from 'svelte';
  import type { HTMLAttributes } from 'svelte/elements';
  import { virtualRows } from './virtual-rows';

  /** A list of very many rows of one height, of which only those in view are drawn; one of them is selected. */
  interface Props {
    label: string;
    role?: 'listbox' | 'tree';
    /** Classes of a grid that lay out the head and every row alike. */
    columns: string;
    rows: readonly Row[];
    rowHeight?: number;
    /** Names a row among all elements of the page. */
    idOf: (row: Row) => string;
    isSelected: (row: Row) => boolean;
    onselect: (row: Row) => void;
    /** Further attributes and events of a row. */
    attributesOf?: (row: Row) => HTMLAttributes<HTMLDivElement>;
    /** Keys besides the arrows up and down. @returns whether it took the key */
    onkey?: (event: KeyboardEvent) => boolean;
    head: Snippet;
    row: Snippet<[Row]>;
  }
  let {
    label,
    role = 'listbox',
    columns,
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

<div class="{columns} border-b border-rule pr-2">{@render head()}</div>
<!-- svelte-ignore a11y_no_noninteractive_tabindex (its role is a list box or a tree) -->
<div
  class="min-h-0 flex-1 overflow-y-auto"
  bind:this={scroller}
  {role}
  aria-label={label}
  tabindex="0"
  aria-activedescendant={at >= 0 ? idOf(rows[at]) : undefined}
  {onkeydown}
>
  <div class="relative" style:height="{$virtualizer.getTotalSize()}px" role="presentation">
    {#each $virtualizer.getVirtualItems() as item (item.key)}
      {@const row = rows[item.index]}
      {#if row}
        {@const { class: more = '', ...attributes } = attributesOf(row)}
        <div
          id={idOf(row)}
          class="{columns} absolute inset-x-0 cursor-pointer border-b border-grid pr-2 num hover:bg-steer-soft aria-selected:bg-pen-soft {more}"
          style:height="{rowHeight}px"
          style:transform="translateY({item.start}px)"
          role={role === 'tree' ? 'treeitem' : 'option'}
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
