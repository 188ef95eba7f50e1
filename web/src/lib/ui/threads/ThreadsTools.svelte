<script lang="ts">
  import { formatCount, plural } from '@tromix/core/text/format';
  import ExportMenu from '$lib/ui/kit/ExportMenu.svelte';
  import Choices from '$lib/ui/kit/Choices.svelte';
  import type { DumpView } from './dump-view.svelte';
  import { threadsExports } from './threads-exports';
  import type { Show, ThreadsState } from './threads-state';

  interface Props {
    view: DumpView;
    shown: ThreadsState;
    /** Of the process, for what is saved. */
    name: string;
    /** Where it is held against another. */
    compareHref: string;
    /** Text that names and frames hold, as it is typed. */
    find: string;
    searchField: HTMLInputElement | null;
    hrefOf: (change: Partial<ThreadsState>) => string;
    onfind: () => void;
  }
  let {
    view,
    shown,
    name,
    compareHref,
    find = $bindable(),
    searchField = $bindable(),
    hrefOf,
    onfind
  }: Props = $props();

  const SHOW_NAMES: Record<Show, string> = {
    waits: 'Who blocks whom',
    threads: 'Threads',
    pools: 'Pools',
    merged: 'Merged stacks'
  };
</script>

<div
  class="flex flex-wrap items-center gap-x-3 gap-y-1 border-b border-rule px-4 py-1.5 whitespace-nowrap text-ink-2"
>
  <Choices
    label=""
    choices={(Object.keys(SHOW_NAMES) as Show[]).map((key) => ({
      key,
      name: SHOW_NAMES[key],
      href: hrefOf({ show: key })
    }))}
    value={shown.show}
  />
  <span class="ml-auto flex items-center gap-2">
    {#if view.filtered}<span class="text-[11px]"
        >{plural(view.chosen.length, 'thread')} of {formatCount(view.dump?.threads.length ?? 0)}</span
      >{/if}
    {#each shown.unfolded as pool (pool)}<span class="chip text-[11px]"
        >{pool} unfolded<a
          href={hrefOf({ unfolded: shown.unfolded.filter((one) => one !== pool) })}
          aria-label="Fold {pool} again">×</a
        ></span
      >{/each}
    <input
      class="w-40 field py-0.5"
      placeholder="Search names, frames"
      aria-label="Search names and frames"
      bind:this={searchField}
      bind:value={find}
      onchange={onfind}
      onkeydown={(event) => event.key === 'Escape' && (find = '')}
    />
    <a class="button" href={compareHref} title="Hold it against a dump of another time or process">Compare</a>
    <ExportMenu exports={threadsExports(view, name, shown.unfolded)} />
  </span>
</div>
