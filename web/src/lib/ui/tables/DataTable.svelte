<script lang="ts" generics="Row">
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import type { Snippet } from 'svelte';
  import { handOver } from '$lib/ui/cases/pins.svelte';
  import { offerOfRow, type PinKind } from '$lib/ui/cases/row-offer';
  import ActionMenu from '$lib/ui/kit/ActionMenu.svelte';
  import { copyText, linkActions, type Action } from '$lib/ui/kit/actions';
  import { offersWatch, watchActionsOf, type WatchOffer } from '$lib/ui/watch/offers.svelte';
  import { toCsv, toTsv } from '@tromix/core/text/csv';
  import { saveText } from '$lib/ui/kit/save-text';
  import { formatCount, plural } from '@tromix/core/text/format';
  import { writeCondition } from '$lib/attribute-condition';
  import Condition from '$lib/ui/kit/Condition.svelte';
  import MoreButton from '$lib/ui/kit/MoreButton.svelte';
  import { moreRows } from '$lib/rows-asked';
  import { uniqueKeys } from '$lib/ui/kit/unique-keys';
  import { csvFields, nextSorting, sortingFrom, type Column } from './columns';
  import ColumnMenu from './ColumnMenu.svelte';
  import { sortRows } from './sort';
  import {
    chosenColumns,
    conditionsOf,
    matching,
    shownColumns,
    tableConditionWords,
    withColumn,
    withConditions,
    wordColumns
  } from './table-choices';
  import TableFilter from './TableFilter.svelte';
  import { virtualRows } from './virtual-rows';

  interface Props {
    label: string;
    rows: Row[];
    columns: Column<Row>[];
    keyOf: (row: Row) => string;
    /** Where a row leads; null, and rows of a table without, are no links. */
    hrefOf?: (row: Row) => string | null;
    /** What a row's link is called where its first cell does not say enough; it holds what that cell shows. */
    linkName?: (row: Row) => string;
    /** What a row is, where it is pinned to a case. */
    kind?: PinKind;
    /** What can be done with a row, besides opening and copying it. */
    actionsOf?: (row: Row) => Action[];
    /** What of a row can be watched, or put on a board; null for nothing. */
    watchOf?: (row: Row) => WatchOffer | null;
    /** Sorting before the user chooses, as `key` or `-key`; '' for the order the rows come in. */
    sort: string;
    /** Name of the sorting in the URL: tables of one page have different ones. */
    param?: string;
    /** Name of the CSV file, without its ending. */
    file: string;
    /** Stands in files and copies only, after the columns. */
    exportAlso?: Column<Row>[];
    cell?: Snippet<[Row, Column<Row>]>;
    /** Stands on the left of the CSV button. */
    head?: Snippet;
    /** Rows grow to their content and are not virtual. */
    short?: boolean;
    /** Pixels of a row. */
    rowHeight?: number;
    empty?: string;
    /** Its columns are chosen elsewhere. */
    columnsChosen?: boolean;
    /** How many rows there are in all, where the address says how many are listed (`rowsAsked`); null for an unknown number of more. */
    total?: number | null;
  }
  let {
    label,
    rows,
    columns: allColumns,
    keyOf,
    hrefOf,
    linkName,
    kind = 'view',
    actionsOf,
    watchOf,
    sort,
    param = 'sort',
    file,
    exportAlso = [],
    cell,
    head,
    short = false,
    rowHeight = 29,
    empty = 'Nothing to list.',
    columnsChosen = false,
    total
  }: Props = $props();

  /** Pixels of the column with the "…". */
  const MORE = 26;
  const USUAL_PX = 820;
  let scroller = $state<HTMLDivElement | null>(null);
  let focused = $state(0);
  let widths = $state<Record<string, number>>({});

  const query = $derived(page.url.searchParams);
  /** Pixels across; before they are known, those of a window 1280 wide. */
  let across = $state(USUAL_PX);
  const columns = $derived(shownColumns(allColumns, chosenColumns(query, param), across || USUAL_PX, MORE));
  const conditions = $derived(conditionsOf(query, param, allColumns));
  const words = $derived(wordColumns(rows, allColumns));
  const matched = $derived(matching(rows, conditions, allColumns));
  /** Of a few rows nothing need be sought. */
  const FEW = 8;
  const sought = $derived(words.length > 0 && (rows.length > FEW || conditions.length > 0));

  const sorting = $derived(sortingFrom(query.get(param) ?? sort));
  const sorted = $derived.by(() => {
    const column = allColumns.find(({ key }) => key === sorting.key);
    return column?.value ? sortRows(matched, column.value, sorting.direction) : matched;
  });
  const template = $derived(
    [
      ...columns.map(({ key, width, grows }) =>
        widths[key] ? `${widths[key]}px` : grows ? `minmax(${width}px,1fr)` : `${width}px`
      ),
      `${MORE}px`
    ].join(' ')
  );
  const least = $derived(columns.reduce((sum, { key, width }) => sum + (widths[key] ?? width), MORE));
  const virtualizer = $derived(virtualRows(scroller, short ? 0 : sorted.length, rowHeight));
  const places = $derived(
    short
      ? sorted.map((_, index) => ({ index, start: index * rowHeight }))
      : $virtualizer.getVirtualItems().map(({ index, start }) => ({ index, start }))
  );
  const shown = $derived.by(() => {
    const keys = uniqueKeys(places.map(({ index }) => keyOf(sorted[index])));
    return places.map((place, i) => ({ ...place, key: keys[i] }));
  });

  const note = (next: URLSearchParams): void =>
    void goto(`${page.url.pathname}?${next}`, { keepFocus: true, noScroll: true, replaceState: true });
  function choose(column: Column<Row>): void {
    const numeric = typeof column.value?.(rows[0]) === 'number';
    const next = new URLSearchParams(query);
    next.set(param, nextSorting(sorting, column.key, numeric));
    note(next);
  }
  const toggle = (key: string): void =>
    note(withColumn(query, param, key, !columns.some((column) => column.key === key)));
  const limit = (texts: readonly string[]): void => note(withConditions(query, param, texts));

  const more = $derived(
    total === undefined || (total !== null && total <= rows.length) ? null : moreRows(page.url)
  );
  /** Who scrolls to the end is given more, once for each end. */
  let asked = '';
  $effect(() => {
    if (!more || conditions.length > 0 || asked === more) return;
    if (!places.some(({ index }) => index === rows.length - 1)) return;
    asked = more;
    void goto(more, { keepFocus: true, noScroll: true, replaceState: true });
  });

  function keys(event: KeyboardEvent): void {
    const step = { ArrowDown: 1, ArrowUp: -1, PageDown: 15, PageUp: -15 }[event.key];
    if (!step || !hrefOf) return;
    event.preventDefault();
    // From the table itself to the row that was left, else to the first.
    const from = event.target === scroller ? focused - step : focused;
    focused = Math.min(sorted.length - 1, Math.max(0, from + step));
    if (!short) $virtualizer.scrollToIndex(focused);
    const rowOf = (): HTMLElement | null | undefined =>
      scroller?.querySelector<HTMLElement>(`[data-index="${focused}"]`);
    const row = rowOf();
    // A row out of sight is drawn first.
    if (row) row.focus({ preventScroll: !short });
    else requestAnimationFrame(() => requestAnimationFrame(() => rowOf()?.focus()));
  }

  const LEAST = 36;
  function resize(event: PointerEvent, column: Column<Row>): void {
    event.preventDefault();
    event.stopPropagation();
    const handle = event.currentTarget as HTMLElement;
    const from = handle.parentElement!.getBoundingClientRect().width;
    handle.setPointerCapture(event.pointerId);
    const move = (now: PointerEvent): void => {
      widths[column.key] = Math.max(LEAST, Math.round(from + now.clientX - event.clientX));
    };
    handle.addEventListener('pointermove', move);
    handle.addEventListener('pointerup', () => handle.removeEventListener('pointermove', move), {
      once: true
    });
  }

  let menu = $state<ReturnType<typeof ActionMenu> | null>(null);
  const linksOf = (row: Row): Action[] => {
    const href = hrefOf?.(row);
    return href ? linkActions(href) : [];
  };
  function openMenu(event: MouseEvent, row: Row): void {
    const here = event.currentTarget as Element;
    void menu?.open(event, [
      ...linksOf(row),
      ...(actionsOf?.(row) ?? []),
      ...watchActionsOf(watchOf?.(row)),
      ...handOver(() => offerOfRow(here, kind, hrefOf?.(row) ?? '')),
      { name: 'Copy the row', run: () => copyText(toTsv([], [csvFields(columns, row)]).trim()) }
    ]);
  }

  const exportable = $derived([...columns, ...exportAlso].filter(({ value }) => value));
  const written = (write: typeof toCsv): string =>
    write(
      exportable.map(({ key }) => key),
      sorted.map((row) => csvFields(exportable, row))
    );
  const direction = (key: string): 'ascending' | 'descending' | undefined =>
    sorting.key !== key ? undefined : sorting.direction === 'asc' ? 'ascending' : 'descending';
</script>

{#snippet content(row: Row, column: Column<Row>)}
  {#if column.text}{column.text(row)}{:else if cell}{@render cell(row, column)}{/if}
{/snippet}

<div class="flex flex-wrap items-baseline gap-x-2 gap-y-1 px-4 py-1.5 text-ink-2">
  {#if head}{@render head()}{/if}
  <span class="ml-auto flex flex-none gap-1.5">
    {#if sought}<TableFilter
        of={label}
        columns={words}
        onadd={(condition) => limit([...conditions, condition].map(writeCondition))}
      />{/if}
    {#if !columnsChosen && allColumns.length > 3 && rows.length > 1}<ColumnMenu
        columns={allColumns.slice(1).map(({ key, title }) => ({ key, name: title }))}
        shown={columns.map(({ key }) => key)}
        of={label}
        ontoggle={toggle}
      />{/if}
    <button class="button border-rule text-ink-2" onclick={() => copyText(written(toTsv))}>Copy</button>
    <button class="button border-rule text-ink-2" onclick={() => saveText(`${file}.csv`, written(toCsv))}
      >CSV</button
    >
  </span>
</div>
{#if conditions.length > 0}
  <div class="flex flex-wrap items-center gap-1.5 px-4 pb-1.5 text-ink-2" data-testid="table-conditions">
    where
    {#each conditions as one (writeCondition(one))}<Condition
        text={tableConditionWords(one, allColumns)}
        ondrop={() => limit(conditions.filter((other) => other !== one).map(writeCondition))}
      />{/each}
    <span class="num">{formatCount(sorted.length)}</span> of {plural(rows.length, 'row')}{more
      ? ` that are listed, of ${total ? formatCount(total) : 'more'}`
      : ''}
  </div>
{/if}
<!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
<div
  class="{short ? '' : 'min-h-0 flex-1'} overflow-auto border-t border-rule bg-sheet"
  bind:this={scroller}
  bind:clientWidth={across}
  tabindex="0"
  role="table"
  data-list={hrefOf ? '' : undefined}
  aria-label={label}
  aria-rowcount={sorted.length + 1}
  onkeydown={keys}
>
  <div
    class="sticky top-0 z-10 grid border-b border-rule bg-sheet"
    style:grid-template-columns={template}
    style:min-width="{least}px"
    role="row"
  >
    {#each columns as column (column.key)}
      <div
        class="relative flex {column.right ? 'justify-end' : ''}"
        role="columnheader"
        aria-sort={direction(column.key)}
      >
        {#if column.value}
          <button class="truncate column hover:text-ink" title={column.about} onclick={() => choose(column)}
            >{column.title}{#if sorting.key === column.key}<span aria-hidden="true"
                >{sorting.direction === 'desc' ? ' ↓' : ' ↑'}</span
              >{/if}</button
          >
        {:else}<span class="truncate column" title={column.about}>{column.title}</span>{/if}
        <!-- svelte-ignore a11y_no_static_element_interactions -->
        <span
          class="absolute inset-y-1 right-0 w-[5px] cursor-col-resize border-r border-transparent hover:border-rule"
          onpointerdown={(event) => resize(event, column)}
          ondblclick={() => delete widths[column.key]}
        ></span>
      </div>
    {/each}
    <div role="columnheader"><span class="sr-only">more</span></div>
  </div>
  {#if sorted.length === 0}<p class="px-4 py-3 text-ink-3">
      {rows.length > 0 ? 'No row matches.' : empty}
    </p>{/if}
  <div
    class="relative"
    style:height={short ? undefined : `${$virtualizer.getTotalSize()}px`}
    style:min-width="{least}px"
    role="rowgroup"
  >
    {#each shown as { index, start, key } (key)}
      {@const row = sorted[index]}
      {@const href = hrefOf?.(row)}
      <!-- svelte-ignore a11y_interactive_supports_focus -->
      <div
        role="row"
        oncontextmenu={(event) => openMenu(event, row)}
        use:offersWatch={watchOf && (() => watchOf(row))}
        aria-rowindex={index + 2}
        class="grid items-center border-b border-grid focus-within:bg-pen-soft hover:bg-pen-soft {short
          ? 'relative py-1'
          : 'absolute inset-x-0 top-0'}"
        style:grid-template-columns={template}
        style:height={short ? undefined : `${rowHeight}px`}
        style:transform={short ? undefined : `translateY(${start}px)`}
      >
        {#each columns as column, i (column.key)}
          <div class="min-w-0 px-2 {column.right ? 'text-right num' : ''} truncate" role="cell">
            {#if i === 0 && href}
              <!-- Covers the whole row, so that it can be clicked anywhere. -->
              <a
                {href}
                aria-label={linkName?.(row)}
                data-index={index}
                data-row
                class="after:absolute after:inset-0"
                onfocus={() => (focused = index)}>{@render content(row, column)}</a
              >
            {:else}{@render content(row, column)}{/if}
          </div>
        {/each}
        <div role="cell"><MoreButton onclick={(event) => openMenu(event, row)} /></div>
      </div>
    {/each}
  </div>
  {#if more}<div class="px-4 py-1.5 text-ink-2" role="row">
      <span role="cell"
        ><a class="underline" href={more} data-sveltekit-noscroll data-sveltekit-keepfocus
          >List more{total ? ` of ${formatCount(total)}` : ''}</a
        ></span
      >
    </div>{/if}
</div>
<ActionMenu bind:this={menu} />
