<script lang="ts">
  import type { HeapMeta } from '@tromix/core/heap/heap-store';
  import { formatCount } from '@tromix/core/text/format';
  import type { HeapState } from './heap-state';

  interface Props {
    meta: Pick<HeapMeta, 'rootKinds' | 'rootRecords'>;
    shown: HeapState;
    hrefOf: (change: Partial<HeapState>) => string;
    onchange: (change: Partial<HeapState>) => void;
    searchField: HTMLInputElement | null;
  }
  let { meta, shown, hrefOf, onchange, searchField = $bindable() }: Props = $props();
  const rootKinds = $derived(
    meta.rootKinds
      .map((kind, i) => ({ ...kind, count: meta.rootRecords[i] }))
      .filter(({ count }) => count > 0)
  );
</script>

<div class="flex flex-wrap items-center gap-2 border-b border-rule px-4 py-1.5 text-[11px] text-ink-2">
  {#if shown.show === 'objects'}
    <label
      >class <input
        class="w-52 field py-0"
        bind:this={searchField}
        value={shown.name}
        onchange={(event) => onchange({ name: event.currentTarget.value, added: false })}
      /></label
    >
    <label
      >text holds <input
        class="w-32 field py-0"
        value={shown.value}
        onchange={(event) => onchange({ value: event.currentTarget.value })}
      /></label
    >
    <label
      >retains at least <input
        class="w-20 field py-0"
        inputmode="numeric"
        value={shown.least || ''}
        onchange={(event) => onchange({ least: Number(event.currentTarget.value) || 0 })}
      /> bytes</label
    >
    {#if shown.added}<span class="chip"
        >only added since<a href={hrefOf({ added: false })} aria-label="Take back: only added">×</a></span
      >{/if}
  {:else}
    <label
      >kind <select
        class="field py-0"
        value={shown.root}
        onchange={(event) => onchange({ root: event.currentTarget.value })}
      >
        <option value="">all</option>
        {#each rootKinds as { kind, count } (kind)}<option value={kind}>{kind} ({formatCount(count)})</option
          >{/each}
      </select></label
    >
    {#each rootKinds.filter(({ kind }) => kind === shown.root) as { about, kind } (kind)}<span>{about}</span
      >{/each}
  {/if}
</div>
