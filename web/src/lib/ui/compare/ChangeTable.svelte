<script lang="ts">
  import type { FunctionChange } from '@tromix/core/profile/difference';
  import { saveText, toCsv } from '$lib/ui/kit/csv';
  import { placeOf } from '$lib/ui/profile/profile-reading';
  import type { Compared } from '$lib/workers/compare.worker';
  import { virtualRows } from '$lib/ui/tables/virtual-rows';

  interface Props {
    compared: Compared;
    words: (weight: number) => string;
    /** Frame that is selected, −1 for none. */
    selected: number;
    onselect: (frame: number) => void;
  }
  let { compared, words, selected, onselect }: Props = $props();

  const ROW = 24;
  let by = $state<'self' | 'total'>('self');
  let scroller = $state<HTMLDivElement | null>(null);
  const changeOf = (row: FunctionChange): number => (by === 'self' ? row.selfChange : row.totalChange);
  const rows = $derived(
    compared.changes
      .filter(({ frame }) => compared.frames[frame].kind !== 'idle')
      .toSorted((a, b) => Math.abs(changeOf(b)) - Math.abs(changeOf(a)))
  );
  const most = $derived(Math.abs(rows[0] ? changeOf(rows[0]) : 0) || 1);
  const virtualizer = $derived(virtualRows(scroller, rows.length, ROW));
  const signed = (weight: number): string =>
    weight === 0 ? 'same' : `${weight > 0 ? '▲ +' : '▼ −'}${words(Math.abs(weight))}`;

  function onkeydown(event: KeyboardEvent): void {
    const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    if (!step) return;
    event.preventDefault();
    const at = Math.min(
      rows.length - 1,
      Math.max(0, rows.findIndex(({ frame }) => frame === selected) + step)
    );
    if (rows[at]) onselect(rows[at].frame);
    $virtualizer.scrollToIndex(at);
  }
  function exportCsv(): void {
    saveText(
      'changes.csv',
      toCsv(
        ['function', 'file', 'line', 'state', 'beforeSelf', 'afterSelf', 'beforeTotal', 'afterTotal'],
        rows.map(({ frame, kind, before, after }) => {
          const { name, file, line } = compared.frames[frame];
          return [name, file, line, kind, before.self, after.self, before.total, after.total];
        })
      )
    );
  }
  const COLUMNS = 'grid grid-cols-[minmax(0,1fr)_90px_90px_150px_70px_minmax(0,170px)] items-center';
</script>

<div class="flex h-full min-w-0 flex-col bg-sheet">
  <div class="{COLUMNS} border-b border-rule pr-2">
    <span class="column">function</span><span class="column text-right">before</span><span
      class="column text-right">after</span
    >
    <span class="column text-right"
      >change of
      {#each ['self', 'total'] as const as key (key)}<button
          class="ml-1 hover:text-ink aria-pressed:font-semibold aria-pressed:text-ink"
          aria-pressed={by === key}
          onclick={() => (by = key)}>{key}</button
        >{/each}</span
    >
    <span></span>
    <span class="flex justify-between column"
      >where <button class="hover:text-ink" onclick={exportCsv}>CSV</button></span
    >
  </div>
  <div
    class="min-h-0 flex-1 overflow-y-auto"
    bind:this={scroller}
    role="listbox"
    aria-label="Functions by change"
    tabindex="0"
    aria-activedescendant={selected >= 0 ? `change-${selected}` : undefined}
    {onkeydown}
  >
    <div class="relative" style:height="{$virtualizer.getTotalSize()}px" role="presentation">
      {#each $virtualizer.getVirtualItems() as item (item.key)}
        {@const row = rows[item.index]}
        {#if row}
          {@const frame = compared.frames[row.frame]}
          {@const change = changeOf(row)}
          <!-- svelte-ignore a11y_click_events_have_key_events, a11y_interactive_supports_focus -->
          <div
            id="change-{row.frame}"
            class="{COLUMNS} absolute inset-x-0 cursor-pointer border-b border-grid pr-2 num hover:bg-steer-soft aria-selected:bg-pen-soft"
            style:height="{ROW}px"
            style:transform="translateY({item.start}px)"
            role="option"
            aria-selected={row.frame === selected}
            onclick={() => onselect(row.frame)}
          >
            <span class="truncate pl-2 {frame.kind === 'app' ? 'font-semibold' : ''}" title={frame.name}
              >{frame.name}</span
            >
            <span class="px-2 text-right">{words(row.before[by])}</span>
            <span class="px-2 text-right">{words(row.after[by])}</span>
            <span class="relative h-full px-2 text-right leading-6 {change > 0 ? 'text-alarm' : ''}"
              ><i
                class="absolute inset-y-[3px] right-0 {change > 0 ? 'bg-pen-soft' : 'bg-steer-soft'}"
                style:width="{(Math.abs(change) / most) * 100}%"
              ></i><span class="relative">{signed(change)}</span></span
            >
            <span class="px-2 text-[11px] text-ink-2">{row.kind === 'both' ? '' : row.kind}</span>
            <span class="truncate pl-2 text-ink-3" title={frame.file}>{placeOf(frame)}</span>
          </div>
        {/if}
      {/each}
    </div>
  </div>
</div>
