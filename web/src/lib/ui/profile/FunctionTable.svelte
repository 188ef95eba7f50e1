<script lang="ts">
  import { formatShare } from '@tromix/core/text/format';
  import type { FunctionWeight } from '@tromix/core/profile/functions';
  import type { OpenedProfile } from '$lib/workers/profile.worker';
  import { saveText, toCsv } from '$lib/ui/kit/csv';
  import { placeOf } from './profile-reading';
  import { virtualRows } from '$lib/ui/tables/virtual-rows';

  interface Props {
    opened: OpenedProfile;
    functions: FunctionWeight[];
    sum: number;
    found: ReadonlySet<number> | null;
    /** Frame that is selected, −1 for none. */
    selected: number;
    onselect: (frame: number) => void;
    onmenu: (event: MouseEvent, frame: number) => void;
  }
  let { opened, functions, sum, found, selected, onselect, onmenu }: Props = $props();

  let by = $state<'self' | 'total'>('self');
  let scroller = $state<HTMLDivElement | null>(null);
  const ROW = 24;
  const rows = $derived.by(() => {
    const matching = functions.filter(
      ({ frame }) => opened.frames[frame].kind !== 'idle' && (found === null || found.has(frame))
    );
    return by === 'self' ? matching : matching.toSorted((a, b) => b.total - a.total);
  });
  const virtualizer = $derived(virtualRows(scroller, rows.length, ROW));

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
    const lines = rows.map(({ frame, self, total }) => {
      const { name, file, line, column, package: from, kind } = opened.frames[frame];
      return [name, file, line, column, from, kind, Math.round(self), Math.round(total), opened.unit];
    });
    saveText(
      'functions.csv',
      toCsv(['name', 'file', 'line', 'column', 'package', 'kind', 'self', 'total', 'unit'], lines)
    );
  }
  const COLUMNS = 'grid grid-cols-[minmax(0,1fr)_88px_64px_minmax(0,190px)] items-center';
</script>

<div class="flex h-full min-w-0 flex-col">
  <div class="{COLUMNS} border-b border-rule pr-2">
    <span class="column">function</span>
    {#each ['self', 'total'] as const as key (key)}
      <button class="column text-right hover:text-ink" aria-pressed={by === key} onclick={() => (by = key)}
        >{key}{by === key ? ' ↓' : ''}</button
      >
    {/each}
    <span class="flex justify-between column"
      >where <button class="hover:text-ink" onclick={exportCsv}>CSV</button></span
    >
  </div>
  <div
    class="min-h-0 flex-1 overflow-y-auto"
    bind:this={scroller}
    role="listbox"
    aria-label="Functions by {by} time"
    tabindex="0"
    aria-activedescendant={selected >= 0 ? `function-${selected}` : undefined}
    {onkeydown}
  >
    <div class="relative" style:height="{$virtualizer.getTotalSize()}px" role="presentation">
      {#each $virtualizer.getVirtualItems() as item (item.key)}
        {@const row = rows[item.index]}
        {#if row}
          {@const frame = opened.frames[row.frame]}
          <!-- svelte-ignore a11y_click_events_have_key_events, a11y_interactive_supports_focus -->
          <div
            id="function-{row.frame}"
            class="{COLUMNS} absolute inset-x-0 cursor-pointer border-b border-grid pr-2 num hover:bg-steer-soft aria-selected:bg-pen-soft"
            style:height="{ROW}px"
            style:transform="translateY({item.start}px)"
            role="option"
            aria-selected={row.frame === selected}
            onclick={() => onselect(row.frame)}
            oncontextmenu={(event) => onmenu(event, row.frame)}
          >
            <span class="truncate pl-2" title={frame.name}>{frame.name}</span>
            <span class="relative h-full px-2 text-right leading-6">
              <i class="absolute inset-y-[3px] left-0 bg-pen-soft" style:width="{(row.self / sum) * 100}%"
              ></i>
              <span class="relative">{formatShare(row.self / sum)}</span>
            </span>
            <span class="px-2 text-right">{formatShare(row.total / sum)}</span>
            <span class="truncate pl-2 text-ink-3" title={frame.file}>{placeOf(frame)}</span>
          </div>
        {/if}
      {/each}
    </div>
  </div>
</div>
