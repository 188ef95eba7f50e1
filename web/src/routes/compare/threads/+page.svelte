<script lang="ts">
  import { wrap } from 'comlink';
  import { eachSide, type Sides } from '@tromix/core/sides';
  import type { ComparedDumps, ComparedPlace, ComparedPool } from '@tromix/core/threads/compare-dumps';
  import { formatCount, plural } from '@tromix/core/text/format';
  import Asking from '$lib/ui/frame/Asking.svelte';
  import { resource } from '$lib/ui/frame/resource.svelte';
  import PairSelects from '$lib/ui/compare/PairSelects.svelte';
  import Empty from '$lib/ui/kit/Empty.svelte';
  import ScrollRegion from '$lib/ui/kit/ScrollRegion.svelte';
  import Page from '$lib/ui/shell/Page.svelte';
  import { evidenceLink } from '$lib/ui/shell/links';
  import { countColumn, moreColumn } from '$lib/ui/tables/column-makers';
  import type { Column } from '$lib/ui/tables/columns';
  import DataTable from '$lib/ui/tables/DataTable.svelte';
  import type { CompareThreadsService } from '$lib/workers/compare-threads.worker';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();
  const pair = $derived(data.before && data.after ? { before: data.before, after: data.after } : null);
  const answer = resource(
    () => pair && eachSide(pair, ({ id }) => `/api/evidence/${id}/content`),
    async (urls): Promise<ComparedDumps> => {
      const worker = new Worker(new URL('../../../lib/workers/compare-threads.worker.ts', import.meta.url), {
        type: 'module'
      });
      try {
        const found = await wrap<CompareThreadsService>(worker).compare(urls);
        if ('error' in found) throw new Error(found.error);
        return found;
      } finally {
        worker.terminate();
      }
    }
  );
  const more = ({ before, after }: Sides<number>): number => after - before;

  const poolColumns: Column<ComparedPool>[] = [
    { key: 'pattern', title: 'pool', width: 180, grows: true, value: ({ pattern }) => pattern },
    countColumn('a', 'A, threads', ({ threads }) => threads.before),
    countColumn('b', 'B, threads', ({ threads }) => threads.after),
    countColumn('ba', 'A, busy', ({ busy }) => busy.before),
    countColumn('bb', 'B, busy', ({ busy }) => busy.after),
    countColumn('xa', 'A, blocked', ({ modes }) => modes.blocked.before),
    countColumn('xb', 'B, blocked', ({ modes }) => modes.blocked.after),
    moreColumn('change', 'threads', ({ threads }) => more(threads))
  ];
  const placeColumns: Column<ComparedPlace>[] = [
    { key: 'name', title: 'where they stand', width: 240, grows: true, value: ({ name }) => name },
    { key: 'mode', title: 'mode', width: 90, value: ({ mode }) => mode, text: ({ mode }) => mode },
    countColumn('a', 'A, threads', ({ threads }) => threads.before),
    countColumn('b', 'B, threads', ({ threads }) => threads.after),
    moreColumn('change', 'change', ({ threads }) => more(threads))
  ];
  const most = $derived(answer.value?.places[0] ?? null);
</script>

<Page>
  {#snippet scope()}
    <PairSelects items={data.dumps} chosen={{ before: data.before, after: data.after }} noun="thread dump" />
  {/snippet}
  {#snippet reading()}
    {#if answer.value}
      <p class="mb-2">
        {plural(answer.value.threads.before, 'thread')} on side A, {formatCount(answer.value.threads.after)} on
        side B, without those of the runtime.
      </p>
      {#if most && more(most.threads) !== 0}
        <p class="mb-2">
          Most changed: {most.name || 'threads without a stack'}, {most.mode}, {formatCount(
            most.threads.before
          )} → {formatCount(most.threads.after)}.
        </p>
      {:else}<p class="mb-2">Their threads stand where they stood.</p>{/if}
      <p class="text-ink-3">
        Two moments: what differs between them need not be a change. Take several dumps of each side before
        you trust it.
      </p>
      <p class="mt-3 flex flex-wrap gap-1.5">
        {#if pair}
          <a class="button" href={evidenceLink(pair.before)}>Dump of A</a>
          <a class="button" href={evidenceLink(pair.after)}>Dump of B</a>
        {/if}
      </p>
    {:else if !pair}<p>
        Choose two thread dumps: one from before a change, or of a normal time, and one from after.
      </p>
    {:else}<Asking of={answer} doing="Reading both dumps…" />{/if}
  {/snippet}
  <h1 class="sr-only">Two thread dumps</h1>
  {#if answer.value}
    <ScrollRegion label="Two thread dumps">
      <DataTable
        label="Pools of both dumps"
        kind="thread"
        rows={answer.value.pools}
        columns={poolColumns}
        keyOf={({ pattern }) => pattern}
        sort=""
        param="pools"
        file="pools"
        short
      >
        {#snippet head()}<h2 class="text-[13px] text-ink">Pools, what changed most first</h2>{/snippet}
        {#snippet cell(row)}<span class="truncate num">{row.pattern}</span>{/snippet}
      </DataTable>
      <DataTable
        label="Where the threads stand"
        kind="thread"
        rows={answer.value.places}
        columns={placeColumns}
        keyOf={({ mode, name, file }) => JSON.stringify([mode, name, file])}
        sort=""
        param="places"
        file="places"
        short
      >
        {#snippet head()}<h2 class="text-[13px] text-ink">
            Where they stand, by function of the program’s own code
          </h2>{/snippet}
        {#snippet cell(row)}<span class="truncate num" title={row.file}>{row.name || 'without a stack'}</span
          >{/snippet}
      </DataTable>
    </ScrollRegion>
  {:else if !pair}
    <Empty title={data.dumps.length < 2 ? 'Two thread dumps are needed' : 'Choose what to compare'}>
      <p>Take a dump of each side under the same load, and choose both above.</p>
      <a class="button button-solid" href="/threads">Go to the thread dumps</a>
    </Empty>
  {:else}<Asking of={answer} doing="Reading both dumps…" />{/if}
</Page>
