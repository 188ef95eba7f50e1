<script lang="ts">
  import type { StackGroup } from '@tromix/core/threads/groups';
  import type { ThreadDump, ThreadFrame } from '@tromix/core/threads/model';
  import { ownDepth, placeWords, shortName } from '@tromix/core/threads/places';
  import { stackText } from '@tromix/core/inspect/threads';
  import { formatCount } from '@tromix/core/text/format';
  import { saveText, toCsv } from '$lib/ui/kit/csv';
  import { MODES } from './modes';
  import { virtualRows } from '$lib/ui/tables/virtual-rows';

  interface Props {
    frames: readonly ThreadFrame[];
    dump: ThreadDump;
    groups: StackGroup[];
    /** Frames from the top that make stacks alike; 0 for all. */
    top: number;
    selected: number;
    onselect: (thread: number) => void;
    ontop: (top: number) => void;
  }
  let { frames, dump, groups, top, selected, onselect, ontop }: Props = $props();

  const ROW = 25;
  let scroller = $state<HTMLDivElement | null>(null);
  const virtualizer = $derived(virtualRows(scroller, groups.length, ROW));
  const COLUMNS = 'grid grid-cols-[58px_96px_minmax(0,1fr)] items-center';

  /** Where alike threads stand: the runtime's top frame, and the program's that led there. */
  function standsAt(group: StackGroup): string {
    if (group.frames.length === 0) return 'no stack';
    const own = ownDepth(frames, group);
    const first = frames[group.frames[0]];
    if (own <= 0) return placeWords(first);
    return `${shortName(first.name)} ← ${placeWords(frames[group.frames[own]])}`;
  }
  function onkeydown(event: KeyboardEvent): void {
    const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    if (!step) return;
    event.preventDefault();
    const now = groups.findIndex(({ threads }) => threads.includes(selected));
    const at = Math.min(groups.length - 1, Math.max(0, now + step));
    $virtualizer.scrollToIndex(at);
    if (groups[at]) onselect(groups[at].threads[0]);
  }
  function exportCsv(): void {
    const rows = groups.map(({ threads, state, frames: stack }) => [
      threads.length,
      state,
      stackText(frames, stack).join(' < '),
      threads.map((thread) => dump.threads[thread].name).join(', ')
    ]);
    saveText('groups.csv', toCsv(['threads', 'state', 'stack', 'names'], rows));
  }
</script>

<div class="flex min-h-0 min-w-0 flex-1 flex-col">
  <div class="flex items-baseline gap-2 px-3 py-1.5">
    <h2 class="text-[13px]">Alike stacks</h2>
    <label class="text-[11px] text-ink-3"
      >by
      <select
        class="field py-0 text-[11px]"
        value={String(top)}
        onchange={(event) => ontop(Number(event.currentTarget.value))}
      >
        <option value="0">every frame</option>
        {#each [1, 3, 5, 10] as count (count)}<option value={String(count)}>top {count}</option>{/each}
      </select></label
    >
    <button class="ml-auto button border-rule text-ink-2" onclick={exportCsv}>CSV</button>
  </div>
  <!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
  <div
    class="min-h-0 flex-1 overflow-auto border-t border-rule bg-sheet"
    bind:this={scroller}
    tabindex="0"
    role="table"
    aria-label="Alike stacks"
    {onkeydown}
  >
    <div class="sticky top-0 z-10 border-b border-rule bg-sheet {COLUMNS}" role="row">
      <span class="column text-right" role="columnheader">threads</span>
      <span class="column" role="columnheader">state</span>
      <span class="column" role="columnheader">stands at</span>
    </div>
    <div class="relative" style:height="{$virtualizer.getTotalSize()}px" role="rowgroup">
      {#each $virtualizer.getVirtualItems() as item (item.key)}
        {@const group = groups[item.index]}
        {#if group}
          {@const mode = MODES[dump.threads[group.threads[0]].mode]}
          <!-- svelte-ignore a11y_click_events_have_key_events -->
          <div
            class="absolute inset-x-0 top-0 cursor-pointer border-b border-grid hover:bg-pen-soft aria-selected:bg-pen-soft {COLUMNS}"
            style:height="{ROW}px"
            style:transform="translateY({item.start}px)"
            role="row"
            tabindex="-1"
            aria-selected={group.threads.includes(selected)}
            onclick={() => onselect(group.threads[0])}
          >
            <span class="px-2 text-right num" role="cell">{formatCount(group.threads.length)}</span>
            <span class="flex items-center gap-1.5 px-2 num text-ink-2" role="cell" title={group.state}
              ><i class="inline-block size-2.5 flex-none" style:background={mode.colour}></i>{mode.name}</span
            >
            <span class="truncate px-2 num" role="cell" title={stackText(frames, group.frames).join('\n')}
              >{standsAt(group)}</span
            >
          </div>
        {/if}
      {/each}
    </div>
    {#if groups.length === 0}<p class="px-3 py-3 text-ink-3">No thread is left by the filters.</p>{/if}
  </div>
</div>
