<script lang="ts">
  import { formatWeight } from '@tromix/core/profile/units';
  import { formatCount, formatShare } from '@tromix/core/text/format';
  import type { FunctionWeight } from '@tromix/core/profile/functions';
  import type { OpenedProfile } from '$lib/workers/profile.worker';
  import { saveText } from '$lib/ui/kit/save-text';
  import { functionCsv } from './function-csv';
  import { inTenths } from './in-tenths';
  import { placeOf } from './profile-reading';
  import VirtualList from '$lib/ui/tables/VirtualList.svelte';

  interface Props {
    opened: OpenedProfile;
    functions: FunctionWeight[];
    sum: number;
    /** How many requests the weights are of; 0 where that is not known: then nothing is told per request. */
    requests?: number;
    /** Requests that ran while calls were counted; 0 where that is not known. */
    served?: number;
    found: ReadonlySet<number> | null;
    /** Frame that is selected, −1 for none. */
    selected: number;
    onselect: (frame: number) => void;
    onmenu: (event: MouseEvent, frame: number) => void;
  }
  let {
    opened,
    functions,
    sum,
    requests = 0,
    served = 0,
    found,
    selected,
    onselect,
    onmenu
  }: Props = $props();

  let by = $state<'self' | 'total' | 'calls'>('self');
  const calls = $derived(opened.calls);
  /** With those that were called and have no sample: what is counted is never zero for being quick. */
  const all = $derived.by(() => {
    if (!calls) return functions;
    const weighed = new Set(functions.map(({ frame }) => frame));
    const others = [...calls].flatMap((count, frame) =>
      count > 0 && !weighed.has(frame) ? [{ frame, self: 0, total: 0 }] : []
    );
    return [...functions, ...others];
  });
  const rows = $derived.by(() => {
    const matching = all.filter(
      ({ frame }) => opened.frames[frame].kind !== 'idle' && (found === null || found.has(frame))
    );
    if (by === 'calls') return matching.toSorted((a, b) => calls![b.frame] - calls![a.frame]);
    return by === 'self' ? matching : matching.toSorted((a, b) => b.total - a.total);
  });

  /** A sampled time is told of a call where enough of it was sampled to mean something. */
  const ENOUGH_NS = 20e6;
  const columns = $derived(
    calls
      ? served > 0
        ? 'grid-cols-[minmax(130px,1fr)_72px_56px_92px_84px_84px_minmax(0,140px)]'
        : 'grid-cols-[minmax(150px,1fr)_80px_60px_96px_88px_minmax(0,150px)]'
      : requests > 0
        ? 'grid-cols-[minmax(150px,1fr)_72px_96px_56px_96px_minmax(0,150px)]'
        : 'grid-cols-[minmax(150px,1fr)_88px_64px_minmax(0,190px)]'
  );

  const exportCsv = (): void => saveText('functions.csv', functionCsv(opened, rows, requests));
</script>

{#snippet each(weight: number)}
  {#if requests > 0}<span class="px-2 text-right num">{formatWeight(weight / requests, opened)}</span>{/if}
{/snippet}

<div class="flex h-full min-w-0 flex-col">
  <VirtualList
    label="Functions by {by} time"
    columns="grid {columns} items-center"
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
      {#if calls}
        <button
          class="column text-right hover:text-ink"
          aria-pressed={by === 'calls'}
          title="Counted, not sampled; the engine’s own functions are not counted"
          onclick={() => (by = 'calls')}>calls{by === 'calls' ? ' ↓' : ''}</button
        >
        {#if served > 0}<span class="column text-right">a request</span>{/if}
        <span
          class="column text-right"
          title="Its sampled time, with what it calls, over its counted calls. What V8 inlines is counted by itself, and its time is its caller’s"
          >a call ≈</span
        >
      {/if}
      <span class="flex justify-between column"
        >where <button class="hover:text-ink" onclick={exportCsv}>CSV</button></span
      >
    {/snippet}
    {#snippet row({ frame: index, self, total })}
      {@const frame = opened.frames[index]}
      <span class="truncate pl-2" title={frame.name}>{frame.name}</span>
      <span class="relative h-full px-2 text-right leading-6">
        <i class="absolute inset-y-[3px] left-0 bg-pen-soft" style:width="{(self / (sum || 1)) * 100}%"></i>
        <span class="relative">{formatShare(self / (sum || 1))}</span>
      </span>
      {@render each(self)}
      <span class="px-2 text-right">{formatShare(total / (sum || 1))}</span>
      {@render each(total)}
      {#if calls}
        {@const count = calls[index]}
        <span class="px-2 text-right num">{count > 0 ? formatCount(count) : '–'}</span>
        {#if served > 0}<span class="px-2 text-right num">{count > 0 ? inTenths(count / served) : '–'}</span
          >{/if}
        <span class="px-2 text-right num"
          >{count > 0 && total >= ENOUGH_NS ? formatWeight(total / count, opened) : '–'}</span
        >
      {/if}
      <span class="truncate pl-2 text-ink-3" title={frame.file}>{placeOf(frame)}</span>
    {/snippet}
  </VirtualList>
</div>
