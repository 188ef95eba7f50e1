<script lang="ts">
  import type { FunctionChange } from '@tromix/core/profile/difference';
  import { changeOf } from '@tromix/core/sides';
  import { toCsv } from '@tromix/core/text/csv';
  import { saveText } from '$lib/ui/kit/save-text';
  import { placeOf } from '$lib/ui/profile/profile-reading';
  import type { Compared } from '$lib/workers/compare.worker';
  import VirtualList from '$lib/ui/tables/VirtualList.svelte';

  interface Props {
    compared: Compared;
    words: (weight: number) => string;
    /** Frame that is selected, −1 for none. */
    selected: number;
    onselect: (frame: number) => void;
  }
  let { compared, words, selected, onselect }: Props = $props();

  let by = $state<'self' | 'total'>('self');
  const changeIn = (row: FunctionChange): number => changeOf(row, (side) => side[by]);
  const rows = $derived(
    compared.changes
      .filter(({ frame }) => compared.frames[frame].kind !== 'idle')
      .toSorted((a, b) => Math.abs(changeIn(b)) - Math.abs(changeIn(a)))
  );
  const most = $derived(Math.abs(rows[0] ? changeIn(rows[0]) : 0) || 1);
  const signed = (weight: number): string =>
    weight === 0 ? 'same' : `${weight > 0 ? '▲ +' : '▼ −'}${words(Math.abs(weight))}`;

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
</script>

<div class="flex h-full min-w-0 flex-col bg-sheet">
  <VirtualList
    label="Functions by change"
    columns="grid grid-cols-[minmax(160px,1fr)_76px_76px_132px_64px_minmax(0,170px)] items-center"
    {rows}
    idOf={({ frame }) => `change-${frame}`}
    isSelected={({ frame }) => frame === selected}
    onselect={({ frame }) => onselect(frame)}
  >
    {#snippet head()}
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
    {/snippet}
    {#snippet row(row)}
      {@const frame = compared.frames[row.frame]}
      {@const change = changeIn(row)}
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
    {/snippet}
  </VirtualList>
</div>
