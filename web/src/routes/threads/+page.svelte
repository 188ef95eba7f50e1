<script lang="ts">
  import NewestEvidence from '$lib/ui/evidence/NewestEvidence.svelte';
  import { page } from '$app/state';
  import { formatCount, plural } from '@tromix/core/text/format';
  import type { Severity } from '@tromix/core/findings/finding';
  import { inScope, seriesOf } from '$lib/evidence/in-scope';
  import type { EvidenceItem } from '$lib/server/queries/evidence';
  import Empty from '$lib/ui/kit/Empty.svelte';
  import FoundSign from '$lib/ui/findings/FoundSign.svelte';
  import Sentence from '$lib/ui/kit/Sentence.svelte';
  import { dateTime } from '$lib/ui/kit/time';
  import Page from '$lib/ui/shell/Page.svelte';
  import ScopeLine from '$lib/ui/shell/ScopeLine.svelte';
  import { viewLink } from '$lib/ui/shell/links';
  import DataTable from '$lib/ui/tables/DataTable.svelte';
  import { countColumn, textColumn } from '$lib/ui/tables/column-makers';
  import type { Column } from '$lib/ui/tables/columns';
  import DropZone from '$lib/ui/evidence/DropZone.svelte';
  import { scopeWindow } from '$lib/scope';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();
  const window = $derived(scopeWindow(data.scope, data.nowMs));

  /** The dumps of one process. */
  interface Series {
    last: EvidenceItem<'threads'>;
    toMs: number;
    dumps: number;
    finding: { severity: Severity; sentence: string } | null;
  }
  const all = $derived(seriesOf(data.items));
  const shown = $derived(
    all
      .filter((one) => inScope(one, data.scope, window))
      .map(({ startedAtUs, durationNs, dumps, last }): Series => ({
        last,
        toMs: (startedAtUs ?? 0) / 1000 + durationNs / 1e6,
        dumps: dumps.reduce((sum, { summary }) => sum + (summary?.dumps ?? 0), 0),
        finding: dumps.toReversed().flatMap(({ summary }) => summary?.findings ?? [])[0] ?? null
      }))
  );
  const columns: Column<Series>[] = [
    { key: 'at', title: 'recorded', width: 132, value: (row) => row.toMs, text: (row) => dateTime(row.toMs) },
    { key: 'of', title: 'of', width: 120, value: ({ last }) => last.service || last.name },
    textColumn('host', 'host', ({ last }) => last.host, { width: 74 }),
    countColumn('dumps', 'dumps', ({ dumps }) => dumps, {
      width: 64,
      about: 'Dumps of this process, read as one series'
    }),
    countColumn('threads', 'threads', ({ last }) => last.summary?.threads ?? null, { width: 70 }),
    {
      key: 'found',
      title: 'what stands out',
      width: 260,
      grows: true,
      value: ({ finding }) => finding?.sentence ?? ''
    }
  ];
  const worst = $derived(shown.find(({ finding }) => finding !== null));
</script>

<Page>
  {#snippet scope()}
    <ScopeLine which={['service', 'host', 'release', 'time']} {window} />
  {/snippet}
  {#snippet reading()}
    {#if worst?.finding}
      <Sentence text={[worst.finding.sentence]} />
      <a class="button button-solid" href={viewLink(`/threads/${worst.last.id}`)}>Show who blocks whom</a>
    {:else if shown.length > 0}
      <p>
        Nothing stands out in {shown.length === 1
          ? 'this series'
          : `these ${plural(shown.length, 'series', 'series')}`}.
      </p>
    {:else}
      <p>
        No thread dumps in this scope{all.length > 0 ? `; ${formatCount(all.length)} outside it` : ''}.
      </p>
    {/if}
    <p class="mt-3 text-ink-2">
      One dump shows who waits for whom. Three, some seconds apart, show which threads do not move: they are
      read as one series.
    </p>
    <h3 class="mt-3 mb-1 heading">From a script</h3>
    <pre
      class="rounded-[3px] border border-rule bg-paper p-2 num text-[11px] break-all whitespace-pre-wrap">jcmd PID Thread.print -l |
 curl --data-binary @- \
 '{page.url.origin}/api/evidence?service=…'</pre>
  {/snippet}
  {#if shown.length === 0}
    <Empty title="No thread dumps in this scope">
      <p>
        Drop one here: from a JVM (text or JSON), Python’s fault handler, Go’s goroutines or a Node.js report.
      </p>
      <DropZone />
      <NewestEvidence items={all} />
    </Empty>
  {:else}
    <DataTable
      label="Thread dumps"
      kind="threads"
      rows={shown}
      {columns}
      keyOf={({ last }) => last.id}
      hrefOf={({ last }) => viewLink(`/threads/${last.id}`)}
      sort="-at"
      file="thread-dumps"
    >
      {#snippet head()}<h1 class="text-[13px]">Thread dumps</h1>{/snippet}
      {#snippet cell(row, column)}
        {#if column.key === 'of'}<b class="font-[560]">{row.last.service || row.last.name || 'unnamed'}</b
          >{#if row.last.pid}<span class="num text-ink-3">&nbsp;{row.last.pid}</span>{/if}
        {:else if row.finding}<FoundSign severity={row.finding.severity} />
          <span title={row.finding.sentence}>{row.finding.sentence}</span>
        {:else}<span class="text-ink-3">nothing</span>{/if}
      {/snippet}
    </DataTable>
    <div class="border-t border-rule p-3"><DropZone /></div>
  {/if}
</Page>
