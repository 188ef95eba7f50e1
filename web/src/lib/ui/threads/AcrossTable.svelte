<script lang="ts">
  import type { ThreadAcross } from '@tromix/core/threads/across';
  import { formatDuration } from '@tromix/core/text/format';
  import { toCsv } from '@tromix/core/text/csv';
  import { saveText } from '$lib/ui/kit/save-text';
  import { MODES } from './modes';
  import VirtualList from '$lib/ui/tables/VirtualList.svelte';

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

  const template = $derived(`minmax(110px,1fr) repeat(${heads.length},minmax(44px,74px)) 74px`);
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
  <VirtualList
    label="Threads across the dumps"
    role="grid"
    columns="grid items-center"
    {template}
    rowHeight={25}
    {rows}
    idOf={(_, index) => `across-${index}`}
    isSelected={(row) => selected >= 0 && row.standings[dump]?.thread === selected}
    onselect={(row) => choose(row)}
  >
    {#snippet head()}
      <span class="column" role="columnheader">thread</span>
      {#each heads as title, i (i)}<span
          class="column text-center {i === dump ? 'font-semibold text-ink' : ''}"
          role="columnheader">{title}</span
        >{/each}
      <span
        class="column text-right"
        role="columnheader"
        title="CPU time from the first dump to the last; stuck is the same stack in every dump, waits is the same for a thread that waits for work or a condition"
        >since</span
      >
    {/snippet}
    {#snippet row(row)}
      {@const fateOf = fate(row)}
      <span class="truncate pl-3 num" role="gridcell" title={row.name}>{row.name || '(no name)'}</span>
      {#each row.standings as standing, i (i)}
        <span class="flex h-full items-center" role="gridcell">
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
      <span class="truncate pr-3 text-right num text-[11px] text-ink-2" role="gridcell" title={fateOf}
        >{fateOf === 'moved' && row.cpuMs !== null ? formatDuration(row.cpuMs * 1e6) : fateOf}</span
      >
    {/snippet}
  </VirtualList>
  {#if rows.length === 0}<p class="px-3 py-3 text-ink-3">Your filters leave no threads.</p>{/if}
</div>
