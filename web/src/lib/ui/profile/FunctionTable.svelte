<script lang="ts">
  import { formatShare } from '@tromix/core/text/format';
  import type { FunctionWeight } from '@tromix/core/profile/functions';
  import type { OpenedProfile } from '$lib/workers/profile.worker';
  import { toCsv } from '@tromix/core/text/csv';
  import { saveText } from '$lib/ui/kit/save-text';
  import { placeOf } from './profile-reading';
  import VirtualList from '$lib/ui/tables/VirtualList.svelte';

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
  const rows = $derived.by(() => {
    const matching = functions.filter(
      ({ frame }) => opened.frames[frame].kind !== 'idle' && (found === null || found.has(frame))
    );
    return by === 'self' ? matching : matching.toSorted((a, b) => b.total - a.total);
  });

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
</script>

<div class="flex h-full min-w-0 flex-col">
  <VirtualList
    label="Functions by {by} time"
    columns="grid grid-cols-[minmax(0,1fr)_88px_64px_minmax(0,190px)] items-center"
    {rows}
    idOf={({ frame }) => `function-${frame}`}
    isSelected={({ frame }) => frame === selected}
    onselect={({ frame }) => onselect(frame)}
    attributesOf={({ frame }) => ({ oncontextmenu: (event) => onmenu(event, frame) })}
  >
    {#snippet head()}
      <span class="column">function</span>
      {#each ['self', 'total'] as const as key (key)}
        <button class="column text-right hover:text-ink" aria-pressed={by === key} onclick={() => (by = key)}
          >{key}{by === key ? ' ↓' : ''}</button
        >
      {/each}
      <span class="flex justify-between column"
        >where <button class="hover:text-ink" onclick={exportCsv}>CSV</button></span
      >
    {/snippet}
    {#snippet row({ frame: index, self, total })}
      {@const frame = opened.frames[index]}
      <span class="truncate pl-2" title={frame.name}>{frame.name}</span>
      <span class="relative h-full px-2 text-right leading-6">
        <i class="absolute inset-y-[3px] left-0 bg-pen-soft" style:width="{(self / sum) * 100}%"></i>
        <span class="relative">{formatShare(self / sum)}</span>
      </span>
      <span class="px-2 text-right">{formatShare(total / sum)}</span>
      <span class="truncate pl-2 text-ink-3" title={frame.file}>{placeOf(frame)}</span>
    {/snippet}
  </VirtualList>
</div>
