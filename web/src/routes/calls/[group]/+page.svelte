<script lang="ts">
  import FactTable from '$lib/ui/kit/FactTable.svelte';
  import ScrollRegion from '$lib/ui/kit/ScrollRegion.svelte';
  import { opensFile } from '@tromix/core/calls/file-call';
  import { formatBytes, formatCount, formatDuration, formatShare, plural } from '@tromix/core/text/format';
  import type { Asker } from '$lib/server/queries/calls/call-group';
  import { failureColumns, rankColumns } from '$lib/ui/calls/call-columns';
  import { groupReading } from '$lib/ui/calls/calls-reading';
  import CallsOverTime from '$lib/ui/calls/CallsOverTime.svelte';
  import AccountChip from '$lib/ui/ledger/AccountChip.svelte';
  import FailuresHere from '$lib/ui/failures/FailuresHere.svelte';
  import Sentence from '$lib/ui/kit/Sentence.svelte';
  import { functionOf } from '$lib/ui/calls/origin-function';
  import OutgoingFacts from '$lib/ui/calls/OutgoingFacts.svelte';
  import Statement from '$lib/ui/calls/Statement.svelte';
  import { exactTime } from '$lib/ui/kit/time';
  import DurationBars from '$lib/ui/endpoint/DurationBars.svelte';
  import { partAccount, partNoun } from '$lib/ui/endpoint/part-kinds';
  import { viewLink } from '$lib/ui/shell/links';
  import Page from '$lib/ui/shell/Page.svelte';
  import ScopeLine from '$lib/ui/shell/ScopeLine.svelte';
  import { ratioColumn } from '$lib/ui/tables/column-makers';
  import type { Column } from '$lib/ui/tables/columns';
  import DataTable from '$lib/ui/tables/DataTable.svelte';
  import { callsOffer } from '$lib/ui/watch/offer-of';
  import { watchable } from '$lib/ui/watch/offers.svelte';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();
  const calls = $derived(data.calls);
  watchable(() => callsOffer(calls.group, data.scope));
  const totals = $derived(calls.totals);
  const askerColumns = (title: string, rows: Asker[]): Column<Asker>[] => [
    { key: 'name', title, width: 200, grows: true, value: ({ name }) => name },
    ...rankColumns<Asker>(),
    ratioColumn('each', 'calls/request', ({ calls: count, requests }) => count / requests, {
      about: 'Of the requests that make it at all'
    }),
    ...failureColumns(rows)
  ];
  /** From who asks to what is known of it: the endpoint, the profile at the calling function, the host around that time. */
  const ways: Partial<Record<string, (row: Asker) => string>> = {
    endpoint: ({ service, name }) => viewLink('/endpoint', { service, endpoint: name, group: undefined }),
    origin: ({ name, service, profileId }) =>
      profileId && functionOf(name)
        ? viewLink(`/profiles/${profileId}`, {}, { at: functionOf(name), find: functionOf(name) })
        : viewLink('/requests', { group: calls.group.id, service }),
    service: ({ name }) => viewLink('/requests', { group: calls.group.id, service: name }),
    host: ({ name }) => viewLink('/requests', { group: calls.group.id, host: name })
  };
  const facts = $derived(
    [
      calls.group.callee !== '' && ['answered by', calls.group.callee],
      ['calls', formatCount(totals.calls)],
      ['requests that make it', formatCount(totals.requests)],
      ['total', formatDuration(totals.totalNs)],
      ['booked', formatDuration(totals.bookedNs)],
      ['mean', formatDuration(totals.totalNs / Math.max(1, totals.calls))],
      ['median', formatDuration(totals.p50Ns)],
      ['p95', formatDuration(totals.p95Ns)],
      ['slowest', formatDuration(totals.slowestNs)],
      ['most in one request', formatCount(totals.mostCalls)],
      totals.rowsKnown > 0 && [
        'rows each',
        `${formatCount(Number((totals.rows / totals.rowsKnown).toPrecision(3)))} (of ${plural(totals.rowsKnown, 'call')} that say)`
      ],
      opensFile(calls.group) && ['opens', formatCount(totals.calls)],
      totals.bytesRead > 0 && ['bytes read', formatBytes(totals.bytesRead)],
      totals.bytesWritten > 0 && ['bytes written', formatBytes(totals.bytesWritten)],
      ['failed', formatCount(totals.failed)],
      ['retried', formatCount(totals.retried)],
      ['on a round limit', formatCount(totals.onRound)]
    ].filter((one) => one !== false) as [string, string][]
  );
</script>

<Page>
  {#snippet scope()}
    <ScopeLine which={['endpoint', 'service', 'host', 'release', 'time', 'run']} window={calls.window} />
  {/snippet}
  {#snippet reading()}
    {#each groupReading(calls) as sentence, i (i)}<Sentence text={sentence} />{/each}
    <FailuresHere failures={data.failing} scope={{ group: undefined }} />
    <h3 class="mt-3 mb-1 heading">Requests to open</h3>
    {#each calls.samples as sample (sample.what)}
      <a
        class="grid grid-cols-[1fr_auto] gap-2 border-b border-grid py-0.5 hover:bg-pen-soft"
        href={viewLink(`/requests/${sample.traceId}/${sample.spanId}`, { group: undefined })}
        title={sample.endpoint}
        ><span class="truncate"
          >{sample.what} <span class="text-ink-3">{exactTime(sample.startUs / 1000)}</span></span
        ><span class="num">{formatDuration(sample.durationNs)}</span></a
      >
    {:else}<p class="text-ink-3">No request with it is kept in full in this time range.</p>{/each}
    <a class="mt-2 button" href={viewLink('/requests', { group: calls.group.id })}
      >All requests that make it</a
    >
    <h3 class="mt-3 mb-1 heading">Figures</h3>
    <FactTable {facts} />
    {#if calls.logged.length > 0}
      <h3 class="mt-3 mb-1 heading">In statement logs</h3>
      {#each calls.logged as log (log.evidenceId)}
        <p>
          {log.name}: {plural(log.calls, 'call')}, {formatDuration(log.totalNs)} in all, {formatDuration(
            log.slowestNs
          )} at most.
        </p>
      {/each}
    {/if}
  {/snippet}

  <ScrollRegion label="Call group">
    <div class="px-4 py-2.5">
      <h1 class="mb-1.5 flex items-center text-[15px]">
        <AccountChip account={partAccount(calls.group.kind)} />A {partNoun(calls.group.kind)}, {plural(
          totals.calls,
          'time',
          'times'
        )}
      </h1>
      <Statement text={calls.group.fingerprint} sql={calls.group.kind === 'database'} />
    </div>
    <section class="border-y border-rule bg-sheet" aria-label="Over time">
      <CallsOverTime
        series={calls.series}
        fromMs={calls.window.fromUs / 1000}
        toMs={calls.window.toUs / 1000}
        stepMs={calls.stepMs}
        resolution={calls.resolution}
        ofGroup={true}
        watchOf={(figure) => callsOffer(calls.group, data.scope, figure)}
      />
    </section>
    <section class="border-b border-rule bg-sheet px-4 py-2">
      <h2 class="mb-1 text-[13px]">How long it takes</h2>
      <DurationBars
        histogram={calls.histogram}
        height={84}
        label="Distribution of {plural(totals.calls, 'call')}: median {formatDuration(
          totals.p50Ns
        )}, p95 {formatDuration(totals.p95Ns)}"
        colourOf={() => 'var(--steer)'}
        marks={calls.onRound.map(({ limitNs, calls: count }) => ({
          ns: limitNs,
          text: `${formatCount(count)} near ${formatDuration(limitNs)}`,
          colour: 'var(--alarm)',
          dashed: true
        }))}
      />
    </section>
    {#if calls.outgoing}<OutgoingFacts outgoing={calls.outgoing} headers={calls.headers} />{/if}
    {#each [{ title: 'endpoint', heading: 'Called by endpoint', rows: calls.endpoints }, { title: 'origin', heading: 'Called from', rows: calls.origins }, { title: 'service', heading: 'Called by service', rows: calls.services }, { title: 'host', heading: 'Called on host', rows: calls.hosts }] as { title, heading, rows } (title)}
      <DataTable
        label={heading}
        kind="request"
        {rows}
        columns={askerColumns(title, rows)}
        keyOf={({ name, service }) => `${service} ${name}`}
        sort="-total"
        param="{title}-sort"
        file="call-by-{title}"
        hrefOf={ways[title]}
        short
      >
        {#snippet head()}<h2 class="text-[13px] text-ink">{heading}</h2>{/snippet}
        {#snippet cell(row)}
          <span
            class="truncate {title === 'origin' ? 'num' : 'font-[560]'}"
            title="{row.name}, {formatShare(row.share)} of its time">{row.name}</span
          >
          {#if row.service}<span class="ml-1 text-[11px] text-ink-3">{row.service}</span>{/if}
        {/snippet}
      </DataTable>
    {/each}
  </ScrollRegion>
</Page>
