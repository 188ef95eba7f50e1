<script lang="ts">
  import { formatWeight } from '@tromix/core/profile/units';
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
    /** How many requests the weights are of; 0 where that is not known: then nothing is told per request. */
    requests?: number;
    found: ReadonlySet<number> | null;
    /** Frame that is selected, −1 for none. */
    selected: number;
    onselect: (frame: number) => void;
    onmenu: (event: MouseEvent, frame: number) => void;
  }
  let { opened, functions, sum, requests = 0, found, selected, onselect, onmenu }: Props = $props();

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
      return [
        name,
        file,
        line,
        column,
        from,
        kind,
        Math.round(self),
        Math.round(total),
        opened.unit,
        requests || ''
      ];
    });
    saveText(
      'functions.csv',
      toCsv(['name', 'file', 'line', 'column', 'package', 'kind', 'self', 'total', 'unit', 'requests'], lines)
    );
  }
</script>

{#snippet each(weight: number)}
  {#if requests > 0}<span class="px-2 text-right num">{formatWeight(weight / requests, opened)}</span>{/if}
{/snippet}

<div class="flex h-full min-w-0 flex-col">
  <VirtualList
    label="Functions by {by} time"
    columns={requests > 0
      ? 'grid grid-cols-[minmax(0,1fr)_88px_104px_64px_104px_minmax(0,150px)] items-center'
      : 'grid grid-cols-[minmax(0,1fr)_88px_64px_minmax(0,190px)] items-center'}
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
        {#if requests > 0}<span class="column text-right">{key} a request</span>{/if}
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
      {@render each(self)}
      <span class="px-2 text-right">{formatShare(total / sum)}</span>
      {@render each(total)}
      <span class="truncate pl-2 text-ink-3" title={frame.file}>{placeOf(frame)}</span>
    {/snippet}
  </VirtualList>
</div>
