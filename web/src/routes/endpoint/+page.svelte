<script lang="ts">
  import { sendAndSay } from '$lib/ui/frame/send';
  import { invalidate } from '$app/navigation';
  import { page as address } from '$app/state';
  import { apdexRating, SMALL_GROUP } from '@tromix/core/stats/apdex';
  import { formatCount, formatDuration, formatShare, plural } from '@tromix/core/text/format';
  import { SLOW_KINDS } from '$lib/endpoint-choices';
  import type { BreakdownRow } from '$lib/server/queries/endpoint';
  import { scopeWindow } from '$lib/scope';
  import AccountChip from '$lib/ui/ledger/AccountChip.svelte';
  import Choices from '$lib/ui/kit/Choices.svelte';
  import Empty from '$lib/ui/kit/Empty.svelte';
  import FoundFinding from '$lib/ui/findings/FoundFinding.svelte';
  import { shortStatement } from '$lib/ui/calls/short-statement';
  import Sentence from '$lib/ui/kit/Sentence.svelte';
  import { exactTime, shortTime } from '$lib/ui/kit/time';
  import Distribution from '$lib/ui/endpoint/Distribution.svelte';
  import { endpointReading } from '$lib/ui/endpoint/endpoint-reading';
  import HeatMap from '$lib/ui/endpoint/HeatMap.svelte';
  import { isCallKind, partAccount } from '$lib/ui/endpoint/part-kinds';
  import SmallMultiples from '$lib/ui/endpoint/SmallMultiples.svelte';
  import { choiceLink, viewLink } from '$lib/ui/shell/links';
  import Page from '$lib/ui/shell/Page.svelte';
  import ScopeLine from '$lib/ui/shell/ScopeLine.svelte';
  import { scopeParts } from '$lib/ui/shell/scope-parts';
  import { screenKeys } from '$lib/ui/frame/keys.svelte';
  import type { Column } from '$lib/ui/tables/columns';
  import DataTable from '$lib/ui/tables/DataTable.svelte';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();
  const endpoint = $derived(data.endpoint);
  screenKeys([
    { keys: '← → ↑ ↓', does: 'on the heat map: choose a cell, with Shift a rectangle' },
    { keys: 'Enter', does: 'on the heat map: list the requests of the selection' }
  ]);
  const place = $derived({ service: endpoint?.service ?? '', endpoint: endpoint?.endpoint ?? '' });
  const perCall = $derived(address.url.searchParams.get('per') === 'call');
  /** The choices of this view in the URL, with one changed. */
  const DEFAULTS = { per: '', slow: 'tenth' };
  const chosen = (change: Partial<typeof DEFAULTS>): string =>
    choiceLink(
      '/endpoint',
      { per: perCall ? 'call' : '', slow: endpoint?.lift.kind ?? 'tenth', ...change },
      DEFAULTS
    );

  const COLUMNS: Column<BreakdownRow>[] = [
    { key: 'part', title: 'part', width: 200, grows: true, value: ({ name }) => name },
    {
      key: 'share',
      title: 'share',
      about:
        'Of the time of these requests: the part of the critical path inside it, with what the called side did',
      width: 62,
      right: true,
      value: ({ share }) => share,
      text: ({ share }) => formatShare(share)
    }
  ];
  const PER_REQUEST: Column<BreakdownRow>[] = [
    {
      key: 'calls',
      title: 'calls/request',
      about: 'Over all requests, also those that make none',
      width: 92,
      right: true,
      value: ({ callsPerRequest }) => callsPerRequest,
      text: ({ callsPerRequest }) => callsPerRequest.toFixed(callsPerRequest < 10 ? 1 : 0)
    },
    {
      key: 'time',
      title: 'time/request',
      about: 'Sum of the durations, also of calls that ran side by side',
      width: 92,
      right: true,
      value: ({ nsPerRequest }) => nsPerRequest,
      text: ({ nsPerRequest }) => formatDuration(nsPerRequest)
    },
    {
      key: 'booked',
      title: 'booked/request',
      about: 'The part of the critical path',
      width: 100,
      right: true,
      value: ({ bookedPerRequest }) => bookedPerRequest,
      text: ({ bookedPerRequest }) => formatDuration(bookedPerRequest)
    }
  ];
  const PER_CALL: Column<BreakdownRow>[] = [
    {
      key: 'count',
      title: 'calls',
      width: 92,
      right: true,
      value: ({ calls }) => calls,
      text: ({ calls }) => formatCount(calls)
    },
    {
      key: 'mean',
      title: 'mean',
      width: 92,
      right: true,
      value: ({ nsPerCall }) => nsPerCall,
      text: ({ nsPerCall }) => formatDuration(nsPerCall)
    },
    {
      key: 'p95',
      title: 'p95',
      about: 'Within 1 %',
      width: 100,
      right: true,
      value: ({ p95Ns }) => p95Ns,
      text: ({ p95Ns }) => formatDuration(p95Ns)
    }
  ];
  const REST: Column<BreakdownRow>[] = [
    {
      key: 'most',
      title: 'most in one',
      about: 'Most calls in one request',
      width: 84,
      right: true,
      value: ({ mostCalls }) => mostCalls,
      text: ({ mostCalls }) => formatCount(mostCalls)
    },
    {
      key: 'failed',
      title: 'failed',
      width: 60,
      right: true,
      value: ({ failed }) => failed,
      text: ({ failed }) => (failed > 0 ? formatCount(failed) : '')
    }
  ];
  const columns = $derived([...COLUMNS, ...(perCall ? PER_CALL : PER_REQUEST), ...REST]);
  const toPart = (row: BreakdownRow): string =>
    isCallKind(row.kind) ? viewLink(`/calls/${row.groupId}`, place) : viewLink('/requests', place);

  const known = $derived(endpoint?.tMs ?? 500);
  // Of the number alone: new data with the same T must not undo what is being typed.
  let t = $derived(known);
  async function setT(): Promise<void> {
    if (!endpoint || t === known) return;
    if (await sendAndSay('POST', '/api/apdex', { endpoint: endpoint.id, tMs: t }, ''))
      await invalidate('tromix:data');
  }
</script>

<Page>
  {#snippet scope()}
    <ScopeLine
      parts={scopeParts(
        ['endpoint', 'service', 'host', 'release', 'time'],
        { ...data.scope, ...(endpoint ? place : {}) },
        data.names,
        endpoint?.window ?? scopeWindow(data.scope, data.nowMs),
        data.nowMs
      )}
    />
  {/snippet}
  {#snippet reading()}
    {#if endpoint}
      {#each endpointReading(endpoint) as sentence, i (i)}<Sentence text={sentence} />{/each}
      {#each endpoint.findings as finding (JSON.stringify([finding.rule, finding.subject]))}<FoundFinding
          {finding}
        />{/each}
      <h3 class="mt-3 mb-1 heading">Apdex</h3>
      <p>
        <b class="num">{endpoint.count ? endpoint.apdex.toFixed(2) : '–'}</b>
        {endpoint.count ? apdexRating(endpoint.apdex) : ''}{endpoint.count > 0 && endpoint.count < SMALL_GROUP
          ? `, of fewer than ${SMALL_GROUP} requests`
          : ''}
      </p>
      <label class="mt-1 flex items-center gap-1.5 text-ink-2"
        >T <input
          class="w-20 field text-right num"
          type="number"
          min="1"
          max="600000"
          bind:value={t}
          onchange={() => void setT()}
        /> ms</label
      >
      <p class="mt-1 text-[11px] text-ink-3">
        Up to T a user is satisfied, up to 4T tolerating, beyond or failed frustrated. Bounds and percentiles
        from roll-ups, within 1 %.
      </p>
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
        <p class="text-ink-3">No request of this window is kept in full.</p>
      {/each}
    {/if}
  {/snippet}

  {#if !endpoint}
    <Empty title="No such endpoint here">
      <p>Choose an endpoint in the sentence above, or a row of the overview.</p>
      <a class="button button-solid" href={viewLink('/', { endpoint: '' })}>Overview</a>
    </Empty>
  {:else if endpoint.count === 0}
    <Empty title="No requests in this window">
      <p>Choose another time in the sentence above, or clear the selection on the time rail.</p>
      <a
        class="button button-solid"
        href={viewLink('/endpoint', { last: '24h', from: undefined, to: undefined })}
        >Show the last 24 hours</a
      >
    </Empty>
  {:else}
    <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
    <div class="min-h-0 flex-1 overflow-y-auto" tabindex="0" role="region" aria-label="Endpoint">
      <div class="flex items-baseline gap-3 px-4 pt-2.5 pb-1">
        <h1 class="text-[15px]">{endpoint.endpoint}</h1>
        <span class="text-ink-2"
          >{endpoint.service} · {plural(endpoint.count, 'request')} · {endpoint.perMinute.toFixed(1)} a minute ·
          median {formatDuration(endpoint.p50Ns)} · p95 {formatDuration(endpoint.p95Ns)}</span
        >
        <a class="ml-auto button" href={viewLink('/requests', place)}>Its requests</a>
      </div>
      <section class="border-y border-rule bg-sheet py-2 pl-1" aria-label="Latency over time">
        <HeatMap page={endpoint} />
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
        rows={endpoint.breakdown}
        {columns}
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
        <div class="mb-1 flex items-baseline gap-3 text-ink-2">
          <h2 class="text-[13px] text-ink">What sets slow requests apart</h2>
          <Choices
            label="slow:"
            choices={Object.entries(SLOW_KINDS).map(([key, name]) => ({
              key,
              name,
              href: chosen({ slow: key })
            }))}
            value={endpoint.lift.kind}
          />
        </div>
        {#if endpoint.lift.rows.length === 0}
          <p class="text-ink-3">
            {endpoint.lift.slow === 0 || endpoint.lift.others === 0
              ? 'There are not both slow and other requests kept here.'
              : `No attribute, host or release is clearly more common among the ${plural(endpoint.lift.slow, 'slow request')} than among the other ${formatCount(endpoint.lift.others)}.`}
          </p>
        {:else}
          <table class="w-full max-w-3xl" aria-label="What sets slow requests apart">
            <thead
              ><tr class="border-b border-rule"
                ><th class="column">attribute</th><th class="column">value</th><th class="column text-right"
                  >of {formatCount(endpoint.lift.slow)} slow</th
                ><th class="column text-right">of {formatCount(endpoint.lift.others)} others</th><th
                  class="column text-right"
                  title="Share among the slow ÷ share among the others">lift</th
                ></tr
              ></thead
            >
            <tbody>
              {#each endpoint.lift.rows as row (JSON.stringify([row.name, row.value]))}
                <tr class="border-b border-grid">
                  <td class="px-2 py-0.5 num text-ink-2">{row.name}</td>
                  <td class="px-2 num"
                    ><a
                      class="hover:underline"
                      href={viewLink('/requests', {
                        ...place,
                        slower: Number((endpoint.lift.thresholdNs / 1e6).toFixed(3)),
                        ...(row.name === 'host'
                          ? { host: row.value }
                          : row.name === 'release'
                            ? { release: row.value }
                            : { attributes: [...data.scope.attributes, `${row.name}=${row.value}`] })
                      })}>{row.value}</a
                    ></td
                  >
                  <td class="px-2 text-right num">{formatCount(row.slow)} · {formatShare(row.slowShare)}</td>
                  <td class="px-2 text-right num"
                    >{formatCount(row.others)} · {formatShare(row.otherShare)}</td
                  >
                  <td class="px-2 text-right num"
                    >{row.others === 0 ? 'only slow' : `${row.lift.toFixed(1)}×`}</td
                  >
                </tr>
              {/each}
            </tbody>
          </table>
        {/if}
        <p class="mt-1 text-[11px] text-ink-3">
          Slow here: longer than {formatDuration(endpoint.lift.thresholdNs)}, of the {formatCount(
            endpoint.kept
          )} requests kept from {shortTime(endpoint.window.fromUs / 1000, data.nowMs)} on. Shown are values at least
          a tenth of the slow ones have, five at the least, whose difference is no chance (p ≤ 0.001).
        </p>
      </section>
    </div>
  {/if}
</Page>
