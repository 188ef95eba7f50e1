<script lang="ts">
  import { CAUSES } from '@tromix/core/crashes/causes';
  import { formatCount, formatDuration } from '@tromix/core/text/format';
  import { inScope } from '$lib/evidence/in-scope';
  import { scopeWindow } from '$lib/scope';
  import { crashRows, crashTitle, listReading, type CrashRow } from '$lib/ui/crashes/crash-list';
  import DropZone from '$lib/ui/evidence/DropZone.svelte';
  import NewestEvidence from '$lib/ui/evidence/NewestEvidence.svelte';
  import { screenKeys } from '$lib/ui/frame/keys.svelte';
  import Empty from '$lib/ui/kit/Empty.svelte';
  import Sentence from '$lib/ui/kit/Sentence.svelte';
  import { dateTime, shortTime, timeRange } from '$lib/ui/kit/time';
  import { viewLink } from '$lib/ui/shell/links';
  import Page from '$lib/ui/shell/Page.svelte';
  import ScopeLine from '$lib/ui/shell/ScopeLine.svelte';
  import { countColumn, textColumn } from '$lib/ui/tables/column-makers';
  import type { Column } from '$lib/ui/tables/columns';
  import DataTable from '$lib/ui/tables/DataTable.svelte';
  import { crashesOffer } from '$lib/ui/watch/offer-of';
  import { watchable } from '$lib/ui/watch/offers.svelte';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();
  watchable(() => crashesOffer(data.scope));
  screenKeys([
    { keys: '↑ ↓', does: 'choose a crash' },
    { keys: 'Enter', does: 'open it' }
  ]);
  const window = $derived(scopeWindow(data.scope, data.nowMs));
  const rows = $derived(crashRows(data.items.filter((item) => inScope(item, data.scope, window))));

  const COLUMNS: Column<CrashRow>[] = [
    {
      key: 'at',
      title: 'ended',
      width: 118,
      value: ({ lastMs }) => lastMs,
      text: ({ firstMs, lastMs, times }) =>
        times > 1 ? timeRange(firstMs, lastMs, data.nowMs) : shortTime(lastMs, data.nowMs)
    },
    textColumn('service', 'service', ({ last }) => last.service, { width: 96 }),
    textColumn('host', 'host', ({ last }) => last.host, { width: 76 }),
    textColumn('cause', 'what ended it', ({ last }) => (last.summary ? CAUSES[last.summary.cause] : ''), {
      width: 138
    }),
    {
      key: 'what',
      title: 'what it says, and where',
      width: 220,
      grows: true,
      value: ({ last }) => crashTitle(last.summary)
    },
    countColumn('times', 'times', ({ times }) => times, {
      width: 56,
      about: 'Crashes alike that follow each other within 10 minutes are one row'
    }),
    {
      key: 'up',
      title: 'was up',
      width: 74,
      right: true,
      value: ({ last }) => last.summary?.uptimeMs ?? null,
      text: ({ last }) => {
        const up = last.summary?.uptimeMs ?? null;
        return up === null ? '–' : formatDuration(up * 1e6);
      }
    }
  ];
</script>

<Page>
  {#snippet scope()}
    <ScopeLine which={['service', 'host', 'release', 'time']} {window} />
  {/snippet}
  {#snippet reading()}
    {#each listReading(rows) as sentence, i (i)}<Sentence text={sentence} />{/each}
    {#if data.items.length > 0 && rows.length === 0}<p>
        {formatCount(data.items.length)} outside this scope.
      </p>{/if}
    <p class="mt-3 text-ink-2">
      A program started with <code class="num">tromix run</code> hands over how it ended, what its runtime wrote
      as it did, and the last lines of its standard error.
    </p>
    <h3 class="mt-3 mb-1 heading">Near the limit of its memory</h3>
    <pre
      class="rounded-[3px] border border-rule bg-paper p-2 num text-[11px] break-all whitespace-pre-wrap">npx tromix run --heap-dumps 2 \
 -- node server.js</pre>
    <p class="text-[11px] text-ink-3">
      Takes so many heap dumps when it is about to run out, and sends them here.
    </p>
  {/snippet}

  {#if rows.length === 0}
    <Empty title="No crashes in this scope">
      <p>
        Drop one here: a Node.js report of a fatal error, a JVM’s fatal error log, or what a program of Go,
        Python, the JVM, Node.js, Ruby or PHP wrote to its standard error as it ended.
      </p>
      <DropZone />
      <NewestEvidence items={data.items} />
    </Empty>
  {:else}
    <DataTable
      label="Crashes"
      {rows}
      columns={COLUMNS}
      keyOf={({ last }) => last.id}
      hrefOf={({ last }) => viewLink(`/crashes/${last.id}`)}
      sort="-at"
      file="crashes"
      rowHeight={42}
      linkName={({ last, lastMs }) => `${dateTime(lastMs)} ${crashTitle(last.summary)}`}
    >
      {#snippet head()}<h1 class="text-[13px] text-ink">Crashes</h1>{/snippet}
      {#snippet cell({ last })}
        <span class="block truncate font-[560]" title={crashTitle(last.summary)}
          >{crashTitle(last.summary)}</span
        >
        <span class="block truncate num text-[11px] text-ink-3"
          >{[last.summary?.function, last.summary?.runtime].filter(Boolean).join(' · ') || 'not told'}</span
        >
      {/snippet}
    </DataTable>
    <div class="border-t border-rule p-3"><DropZone /></div>
  {/if}
</Page>
