<script lang="ts">
  import NewestEvidence from '$lib/ui/evidence/NewestEvidence.svelte';
  import { formatCount, plural } from '@tromix/core/text/format';
  import { inScope } from '$lib/evidence/in-scope';
  import type { EvidenceItem } from '$lib/server/queries/evidence';
  import Empty from '$lib/ui/kit/Empty.svelte';
  import FoundSign from '$lib/ui/findings/FoundSign.svelte';
  import Sentence from '$lib/ui/kit/Sentence.svelte';
  import { dateTime } from '$lib/ui/kit/time';
  import { viewLink } from '$lib/ui/shell/links';
  import Page from '$lib/ui/shell/Page.svelte';
  import ScopeLine from '$lib/ui/shell/ScopeLine.svelte';
  import DataTable from '$lib/ui/tables/DataTable.svelte';
  import { bytesColumn, countColumn, textColumn } from '$lib/ui/tables/column-makers';
  import type { Column } from '$lib/ui/tables/columns';
  import DropZone from '$lib/ui/evidence/DropZone.svelte';
  import { scopeWindow } from '$lib/scope';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();
  const window = $derived(scopeWindow(data.scope, data.nowMs));
  const shown = $derived(data.items.filter((item) => inScope(item, data.scope, window)));
  const columns: Column<EvidenceItem<'heap'>>[] = [
    {
      key: 'at',
      title: 'taken',
      width: 132,
      value: ({ startedAtUs }) => startedAtUs,
      text: ({ startedAtUs }) => (startedAtUs === null ? 'not known' : dateTime(startedAtUs / 1000))
    },
    { key: 'of', title: 'of', width: 110, value: ({ service, name }) => service || name },
    textColumn('host', 'host', ({ host }) => host, { width: 74 }),
    countColumn('objects', 'objects', ({ summary }) => summary?.objects ?? null),
    bytesColumn('live', 'alive', ({ summary }) => summary?.liveBytes ?? null, {
      about: 'Bytes held from roots'
    }),
    {
      key: 'found',
      title: 'what stands out',
      width: 220,
      grows: true,
      value: ({ summary }) => summary?.findings[0]?.sentence ?? ''
    }
  ];
  const worst = $derived(shown.find(({ summary }) => (summary?.findings.length ?? 0) > 0));
</script>

<Page>
  {#snippet scope()}
    <ScopeLine which={['service', 'host', 'release', 'time']} {window} />
  {/snippet}
  {#snippet reading()}
    {#if worst?.summary}
      <Sentence text={[worst.summary.findings[0].sentence]} />
      <a class="button button-solid" href={viewLink(`/heap/${worst.id}`)}>Show what holds it</a>
    {:else if shown.length > 0}<p>Nothing stands out in {plural(shown.length, 'dump')}.</p>
    {:else}<p>
        No heap dumps in this scope{data.items.length > 0
          ? `; ${formatCount(data.items.length)} outside it`
          : ''}.
      </p>{/if}
    <p class="mt-3 text-ink-2">
      One dump shows what fills the memory and what keeps it. A second, later one shows what grew.
    </p>
    <p class="mt-2 text-ink-2">
      Taking a dump stops the process, for about a second for every 500 MB of its heap. Take it of one host.
    </p>
  {/snippet}
  {#if shown.length === 0}
    <Empty title="No heap dumps in this scope">
      <p>
        Drop one here: HPROF of a JVM, or a V8 heap snapshot, plain or gzip; or let the recorder take one of a
        Node.js process.
      </p>
      <DropZone />
      <p class="flex gap-2">
        <a class="button" href="/recorder">Recorder</a><NewestEvidence items={data.items} />
      </p>
    </Empty>
  {:else}
    <DataTable
      label="Heap dumps"
      kind="heap"
      rows={shown}
      {columns}
      keyOf={({ id }) => id}
      hrefOf={({ id }) => viewLink(`/heap/${id}`)}
      sort="-at"
      file="heap-dumps"
    >
      {#snippet head()}<h1 class="text-[13px]">Heap dumps</h1>{/snippet}
      {#snippet cell(row, column)}
        {#if column.key === 'of'}<b class="font-[560]">{row.service || row.name || 'unnamed'}</b
          >{#if row.pid}<span class="num text-ink-3">&nbsp;{row.pid}</span>{/if}
        {:else if row.summary?.findings[0]}<FoundSign severity={row.summary.findings[0].severity} />
          <span title={row.summary.findings[0].sentence}>{row.summary.findings[0].sentence}</span>
        {:else}<span class="text-ink-3">{row.summary ? 'nothing' : 'not indexed yet'}</span>{/if}
      {/snippet}
    </DataTable>
    <div class="border-t border-rule"><DropZone /></div>
  {/if}
</Page>
