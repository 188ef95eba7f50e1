<script lang="ts">
  import type { StackGroup } from '@tromix/core/threads/groups';
  import type { ThreadDump, ThreadFrame } from '@tromix/core/threads/model';
  import { ownDepth, placeWords, shortName } from '@tromix/core/threads/places';
  import { stackText } from '@tromix/core/inspect/threads';
  import { formatCount } from '@tromix/core/text/format';
  import { toCsv } from '@tromix/core/text/csv';
  import { saveText } from '$lib/ui/kit/save-text';
  import { MODES } from './modes';
  import VirtualList from '$lib/ui/tables/VirtualList.svelte';

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

  /** Where alike threads stand: the runtime's top frame, and the program's that led there. */
  function standsAt(group: StackGroup): string {
    if (group.frames.length === 0) return 'no stack';
    const own = ownDepth(frames, group);
    const first = frames[group.frames[0]];
    if (own <= 0) return placeWords(first);
    return `${shortName(first.name)} ← ${placeWords(frames[group.frames[own]])}`;
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
    <h2 class="text-[13px]">Stack groups</h2>
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
  <VirtualList
    label="Stack groups"
    role="grid"
    columns="grid grid-cols-[58px_96px_minmax(0,1fr)] items-center"
    rowHeight={25}
    rows={groups}
    idOf={({ threads }) => `alike-${threads[0]}`}
    isSelected={({ threads }) => threads.includes(selected)}
    onselect={({ threads }) => onselect(threads[0])}
  >
    {#snippet head()}
      <span class="column text-right" role="columnheader">threads</span>
      <span class="column" role="columnheader">state</span>
      <span class="column" role="columnheader">stands at</span>
    {/snippet}
    {#snippet row(group)}
      {@const mode = MODES[dump.threads[group.threads[0]].mode]}
      <span class="px-2 text-right num" role="gridcell">{formatCount(group.threads.length)}</span>
      <span class="flex items-center gap-1.5 px-2 num text-ink-2" role="gridcell" title={group.state}
        ><i class="inline-block size-2.5 flex-none" style:background={mode.colour}></i>{mode.name}</span
      >
      <span class="truncate px-2 num" role="gridcell" title={stackText(frames, group.frames).join('\n')}
        >{standsAt(group)}</span
      >
    {/snippet}
  </VirtualList>
  {#if groups.length === 0}<p class="px-3 py-3 text-ink-3">Your filters leave no threads.</p>{/if}
</div>
