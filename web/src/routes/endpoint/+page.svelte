<script lang="ts">
  import { pinnable } from '$lib/ui/cases/pins.svelte';
  import ScrollRegion from '$lib/ui/kit/ScrollRegion.svelte';
  import { overviewReading } from '$lib/ui/overview/overview-reading';
  import NoData from '$lib/ui/shell/NoData.svelte';
  import { goto } from '$app/navigation';
  import { page as address } from '$app/state';
  import { formatCount, formatDuration, plural } from '@tromix/core/text/format';
  import type { BreakdownRow } from '$lib/server/queries/endpoint';
  import { scopeWindow } from '$lib/scope';
  import AccountChip from '$lib/ui/ledger/AccountChip.svelte';
  import Choices from '$lib/ui/kit/Choices.svelte';
  import FailuresHere from '$lib/ui/failures/FailuresHere.svelte';
  import FoundFinding from '$lib/ui/findings/FoundFinding.svelte';
  import { shortStatement } from '$lib/ui/calls/short-statement';
  import Sentence from '$lib/ui/kit/Sentence.svelte';
  import { exactTime } from '$lib/ui/kit/time';
  import Apdex from '$lib/ui/endpoint/Apdex.svelte';
  import { breakdownColumns } from '$lib/ui/endpoint/breakdown-columns';
  import Distribution from '$lib/ui/endpoint/Distribution.svelte';
  import { endpointReading } from '$lib/ui/endpoint/endpoint-reading';
  import HeatMap from '$lib/ui/endpoint/HeatMap.svelte';
  import { isCallKind, partAccount } from '$lib/ui/endpoint/part-kinds';
  import SlowAgainstOthers from '$lib/ui/endpoint/SlowAgainstOthers.svelte';
  import SmallMultiples from '$lib/ui/endpoint/SmallMultiples.svelte';
  import LedgerOverTime from '$lib/ui/ledger/LedgerOverTime.svelte';
  import OverviewTable from '$lib/ui/overview/OverviewTable.svelte';
  import { choiceLink, viewLink, whyLink } from '$lib/ui/shell/links';
  import Page from '$lib/ui/shell/Page.svelte';
  import ScopeLine from '$lib/ui/shell/ScopeLine.svelte';
  import { screenKeys } from '$lib/ui/frame/keys.svelte';
  import DataTable from '$lib/ui/tables/DataTable.svelte';
  import { requestsOffer } from '$lib/ui/watch/offer-of';
  import { watchable } from '$lib/ui/watch/offers.svelte';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();
  const endpoint = $derived(data.endpoint);
  screenKeys([
    { keys: '← → ↑ ↓', does: 'on the heat map: choose a cell, with Shift a rectangle' },
    { keys: 'Enter', does: 'on the heat map: list the requests of the selection' },
    { keys: 'y', does: 'why its slow requests are slow', run: () => void goto(whyLink(place)) }
  ]);
  const place = $derived({ service: endpoint?.service ?? '', endpoint: endpoint?.endpoint ?? '' });
  const offer = $derived(endpoint ? requestsOffer(data.scope, place, 'p95', endpoint.tMs) : null);
  watchable(() => offer);
  pinnable(() =>
    endpoint
      ? {
          kind: 'endpoint',
          role: 'noticed',
          title: endpoint.endpoint,
          figures: [
            { name: 'requests', value: formatCount(endpoint.count) },
            { name: 'median', value: formatDuration(endpoint.p50Ns) },
            { name: 'p95', value: formatDuration(endpoint.p95Ns) },
            { name: 'failed', value: formatCount(endpoint.failed) }
          ]
        }
      : {}
  );
  const perCall = $derived(address.url.searchParams.get('per') === 'call');
  /** The choices of this view in the URL, with one changed. */
  const DEFAULTS = { per: '', slow: 'tenth' };
  const chosen = (change: Partial<typeof DEFAULTS>): string =>
    choiceLink(
      '/endpoint',
      { per: perCall ? 'call' : '', slow: endpoint?.lift.kind ?? 'tenth', ...change },
      DEFAULTS
    );

  const toPart = (row: BreakdownRow): string =>
    isCallKind(row.kind) ? viewLink(`/calls/${row.groupId}`, place) : viewLink('/requests', place);
</script>

<Page>
  {#snippet scope()}
    <ScopeLine
      which={['endpoint', 'service', 'host', 'release', 'time', 'run']}
      window={endpoint?.window ?? scopeWindow(data.scope, data.nowMs)}
      about={endpoint ? place : {}}
    />
  {/snippet}
  {#snippet reading()}
    {#if endpoint}
      {#each endpointReading(endpoint) as sentence, i (i)}<Sentence text={sentence} />{/each}
      {#each endpoint.findings as finding (JSON.stringify([finding.rule, finding.subject]))}<FoundFinding
          {finding}
        />{/each}
      <FailuresHere failures={data.failing} />
      <Apdex page={endpoint} />
      <h3 class="mt-3 mb-1 heading">Requests to open</h3>
      {#each endpoint.samples as sample, i (i)}
        <a
          class="grid grid-cols-[1fr_auto] gap-2 border-b border-grid py-0.5 hover:bg-pen-soft"
          href={viewLink(`/requests/${sample.traceId}/${sample.spanId}`, place)}
          ><span>{sample.what} <span class="text-ink-3">{exactTime(sample.startUs / 1000)}</span></span><span
            class="num">{formatDuration(sample.durationNs)}</span
          ></a
        >
      {:else}
        <p class="text-ink-3">No request of this time range is kept in full.</p>
      {/each}
      {#if endpoint.samples.length > 0}
        {@const { traceId, spanId } = endpoint.samples[0]}
        <a class="mt-2 button" href={viewLink('/load', {}, { repeat: `${traceId}/${spanId}` })}
          >Repeat the {endpoint.samples[0].what}</a
        >
      {/if}
    {:else if data.list}
      {#each overviewReading(data.list) as sentence, i (i)}<Sentence text={sentence} />{/each}
    {/if}
  {/snippet}

  {#if !endpoint}
    <h1 class="px-4 pt-3 pb-1 text-[15px]">Endpoints</h1>
    {#if data.scope.endpoint}<p class="px-4 pb-2 text-ink-2" role="status">
        {data.scope.service} has no endpoint {data.scope.endpoint}. Choose one of these.
      </p>{/if}
    {#if data.list && data.list.rows.length > 0}
      <OverviewTable
        overview={data.list}
        rows={data.list.rows}
        hrefOf={(row) => viewLink('/endpoint', { service: row.service, endpoint: row.name })}
        watchOf={(row) => requestsOffer(data.scope, { service: row.service, endpoint: row.name })}
        actionsOf={(row) => [
          {
            name: 'Its requests',
            href: viewLink('/requests', { service: row.service, endpoint: row.name })
          }
        ]}
      />
    {:else}
      <NoData title="No requests in this time range" />
    {/if}
  {:else if endpoint.count === 0}
    <NoData title="No requests in this time range" />
  {:else}
    <ScrollRegion label="Endpoint">
      <div class="flex flex-wrap items-baseline gap-x-3 gap-y-1 px-4 pt-2.5 pb-1.5">
        <h1 class="text-[15px]">{endpoint.endpoint}</h1>
        <span class="text-ink-2"
          >{endpoint.service} · {plural(endpoint.count, 'request')} · {endpoint.perMinute.toFixed(1)} per minute
          · median {formatDuration(endpoint.p50Ns)} · p95 {formatDuration(endpoint.p95Ns)} · slowest {formatDuration(
            endpoint.slowestNs
          )}</span
        >
        <span class="ml-auto flex gap-1.5">
          <a class="button button-solid" href={whyLink(place)} title="Slow requests against normal ones (y)"
            >Why slow</a
          >
          <a
            class="button"
            href={viewLink('/profiles/scope', place)}
            title="What its requests computed, in all recordings">Its functions</a
          >
          <a class="button" href={viewLink('/compare', place)}>Compare</a>
          <a class="button" href={viewLink('/requests', place)}>Its requests</a>
        </span>
      </div>
      <section class="border-y border-rule bg-sheet py-2 pl-1" aria-label="Latency over time">
        <HeatMap page={endpoint} watch={offer} />
      </section>
      <section class="border-b border-rule bg-sheet pt-2 pl-1">
        <h2 class="pl-3 text-[13px]">
          What a request is made of, over time <span class="font-normal text-ink-3">on the mean</span>
        </h2>
        <LedgerOverTime
          series={endpoint.heat}
          binMs={endpoint.stepMs}
          fromMs={endpoint.window.fromUs / 1000}
          toMs={endpoint.window.toUs / 1000}
          height={104}
          left={58}
          right={26}
          named
          file="parts-over-time"
        />
      </section>
      <div class="grid grid-cols-2 border-b border-rule bg-sheet">
        <section class="min-w-0 border-r border-rule px-4 py-2">
          <h2 class="mb-1 text-[13px]">How long they take</h2>
          <Distribution page={endpoint} />
        </section>
        <section class="max-h-[190px] min-w-0 overflow-y-auto px-4 py-2" aria-label="Hosts and releases">
          <SmallMultiples
            title="Hosts"
            rows={endpoint.hosts}
            hrefOf={(host) => viewLink('/endpoint', { ...place, host })}
          />
          <div class="h-2"></div>
          <SmallMultiples
            title="Releases"
            rows={endpoint.releases}
            hrefOf={(release) => viewLink('/endpoint', { ...place, release })}
          />
        </section>
      </div>
      <DataTable
        label="What a request is made of"
        kind="call group"
        rows={endpoint.breakdown}
        columns={breakdownColumns(perCall)}
        keyOf={({ groupId }) => String(groupId)}
        hrefOf={toPart}
        sort="-share"
        file="breakdown"
        short
      >
        {#snippet head()}
          <h2 class="text-[13px] text-ink">What a request is made of</h2>
          <Choices
            label=""
            choices={[
              { key: 'request', name: 'per request', href: chosen({ per: '' }) },
              { key: 'call', name: 'per call', href: chosen({ per: 'call' }) }
            ]}
            value={perCall ? 'call' : 'request'}
          />
        {/snippet}
        {#snippet cell(row)}
          <span class="flex min-w-0 items-center" title="{row.name}{row.origin ? `\n${row.origin}` : ''}">
            <AccountChip account={partAccount(row.kind)} />
            <span class="min-w-0">
              <span class="block truncate num">{shortStatement(row.name)}</span>
              {#if row.origin}<span class="block truncate text-[11px] text-ink-3">{row.origin}</span>{/if}
            </span>
          </span>
        {/snippet}
      </DataTable>
      <section class="border-t border-rule px-4 py-2">
        <SlowAgainstOthers
          page={endpoint}
          scope={data.scope}
          nowMs={data.nowMs}
          hrefBy={(slow) => chosen({ slow })}
        />
      </section>
    </ScrollRegion>
  {/if}
</Page>
