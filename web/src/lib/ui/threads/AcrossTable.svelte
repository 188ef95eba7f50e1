<script lang="ts">
  import type { ThreadAcross } from '@tromix/core/threads/across';
  import { formatDuration } from '@tromix/core/text/format';
  import { saveText, toCsv } from '$lib/ui/kit/csv';
  import { MODES } from './modes';
  import { virtualRows } from '$lib/ui/tables/virtual-rows';

  interface Props {
    rows: ThreadAcross[];
    /** What heads the column of each dump. */
    heads: string[];
    /** Dump that is looked at. */
    dump: number;
    selected: number;
    /** False for a thread that waits for work there. */
    isAtWork: (standing: { dump: number; thread: number }) => boolean;
    onselect: (dump: number, thread: number) => void;
  }
  let { rows, heads, dump, selected, isAtWork, onselect }: Props = $props();

  const ROW = 25;
  let scroller = $state<HTMLDivElement | null>(null);
  let focused = $state(0);
  const virtualizer = $derived(virtualRows(scroller, rows.length, ROW));
  const columns = $derived(`minmax(110px,1fr) repeat(${heads.length},minmax(44px,74px)) 74px`);
  const SINCE = { first: '', same: 'same stack', moved: 'moved' };
  const lastStanding = (row: ThreadAcross): number =>
    row.standings[dump] ? dump : row.standings.findLastIndex((standing) => standing !== null);
  function choose(row: ThreadAcross, at = lastStanding(row)): void {
    const standing = row.standings[at];
    if (standing) onselect(at, standing.thread);
  }
  function fate(row: ThreadAcross): string {
    if (heads.length < 2) return '';
    if (!row.standings[0]) return 'new';
    if (!row.standings.at(-1)) return 'gone';
    if (row.sameFor < heads.length) return 'moved';
    const last = heads.length - 1;
    if (!isAtWork({ dump: last, thread: row.standings[last]!.thread })) return 'waits';
    return row.computing ? 'stuck, computes' : 'stuck';
  }
  function onkeydown(event: KeyboardEvent): void {
    const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    if (!step) return;
    event.preventDefault();
    focused = Math.min(rows.length - 1, Math.max(0, focused + step));
    $virtualizer.scrollToIndex(focused);
    if (rows[focused]) choose(rows[focused]);
  }
  function exportCsv(): void {
    const lines = rows.map((row) => [
      row.name,
      ...row.standings.map((standing) => (standing ? MODES[standing.mode].name : '')),
      row.sameFor,
      fate(row),
      row.cpuMs === null ? '' : Math.round(row.cpuMs)
    ]);
    saveText('across.csv', toCsv(['thread', ...heads, 'same_for', 'fate', 'cpu_ms'], lines));
  }
</script>

<div class="flex min-h-0 min-w-0 flex-1 flex-col">
  <div class="flex items-baseline gap-2 px-3 py-1.5">
    <h2 class="text-[13px]">{heads.length > 1 ? 'Across the dumps' : 'Threads'}</h2>
    <button class="ml-auto button border-rule text-ink-2" onclick={exportCsv}>CSV</button>
  </div>
  <!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
  <div
    class="min-h-0 flex-1 overflow-auto border-t border-rule bg-sheet"
    bind:this={scroller}
    tabindex="0"
    role="table"
    aria-label="Threads across the dumps"
    {onkeydown}
  >
    <div
      class="sticky top-0 z-10 grid border-b border-rule bg-sheet"
      style:grid-template-columns={columns}
      role="row"
    >
      <span class="column" role="columnheader">thread</span>
      {#each heads as head, i (i)}<span
          class="column text-center {i === dump ? 'font-semibold text-ink' : ''}"
          role="columnheader">{head}</span
        >{/each}
      <span
        class="column text-right"
        role="columnheader"
        title="CPU time from the first dump to the last; stuck is the same stack in every dump, waits is the same for a thread that waits for work or a condition"
        >since</span
      >
    </div>
    <div class="relative" style:height="{$virtualizer.getTotalSize()}px" role="rowgroup">
      {#each $virtualizer.getVirtualItems() as item (item.key)}
        {@const row = rows[item.index]}
        {#if row}
          {@const fateOf = fate(row)}
          <!-- svelte-ignore a11y_click_events_have_key_events -->
          <div
            class="absolute inset-x-0 top-0 grid cursor-pointer items-center border-b border-grid hover:bg-pen-soft aria-selected:bg-pen-soft"
            style:grid-template-columns={columns}
            style:height="{ROW}px"
            style:transform="translateY({item.start}px)"
            role="row"
            tabindex="-1"
            aria-selected={row.standings[dump]?.thread === selected && selected >= 0}
            onclick={() => choose(row)}
          >
            <span class="truncate pl-3 num" role="cell" title={row.name}>{row.name || '(no name)'}</span>
            {#each row.standings as standing, i (i)}
              <span class="flex h-full items-center" role="cell">
                {#if standing}
                  {@const mode = MODES[standing.mode]}
                  <!-- A bar that goes on from the one before stands for the same stack. -->
                  <button
                    class="h-3 flex-1 text-center num text-[9px] leading-3 {standing.since === 'same'
                      ? ''
                      : 'ml-1.5'} {row.standings[i + 1]?.since === 'same' ? '' : 'mr-1.5'}"
                    style:background={mode.colour}
                    style:color={mode.on}
                    tabindex="-1"
                    title="{heads[i]}: {mode.name}{standing.since === 'first'
                      ? ''
                      : `, ${SINCE[standing.since]}`}{standing.cpuMs === null
                      ? ''
                      : `, ${formatDuration(standing.cpuMs * 1e6)} of CPU since`}"
                    aria-label="{heads[i]}: {mode.name}, {SINCE[standing.since] || 'first seen'}"
                    onclick={(event) => {
                      event.stopPropagation();
                      choose(row, i);
                    }}>{mode.letter}</button
                  >
                {/if}
              </span>
            {/each}
            <span class="truncate pr-3 text-right num text-[11px] text-ink-2" role="cell" title={fateOf}
              >{fateOf === 'moved' && row.cpuMs !== null ? formatDuration(row.cpuMs * 1e6) : fateOf}</span
            >
          </div>
        {/if}
      {/each}
    </div>
    {#if rows.length === 0}<p class="px-3 py-3 text-ink-3">No thread is left by the filters.</p>{/if}
  </div>
</div>
