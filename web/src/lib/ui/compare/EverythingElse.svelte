<script lang="ts">
  import { page } from '$app/state';
  import type { Sides } from '@tromix/core/sides';
  import type { Scope } from '$lib/scope';
  import type { CallChange, EndpointChange, EverythingElse } from '$lib/server/queries/sides/everything-else';
  import { shortStatement } from '$lib/ui/calls/short-statement';
  import { partAccount } from '$lib/ui/endpoint/part-kinds';
  import Asking from '$lib/ui/frame/Asking.svelte';
  import { resource } from '$lib/ui/frame/resource.svelte';
  import { send } from '$lib/ui/frame/send';
  import { changeLook, TONES } from '$lib/ui/kit/change';
  import AccountChip from '$lib/ui/ledger/AccountChip.svelte';
  import { compareLink } from '$lib/ui/shell/links';
  import { countColumn, durationColumn, ratioColumn, textColumn } from '$lib/ui/tables/column-makers';
  import type { Column } from '$lib/ui/tables/columns';
  import DataTable from '$lib/ui/tables/DataTable.svelte';

  /** All endpoints, or all kinds of calls, of both sides: what clearly changed first. */
  let { what, scopes }: { what: 'endpoints' | 'calls'; scopes: Sides<Scope> } = $props();
  const answer = resource(
    () => page.url.search,
    (query, signal) => send<EverythingElse>('GET', `/api/compare/else${query}`, undefined, signal),
    { keep: true }
  );
  const known = (value: number | null): number | null =>
    value === null || Number.isNaN(value) ? null : value;

  const changeColumn = <Row extends { change: EndpointChange['change'] }>(title: string): Column<Row> => ({
    key: 'change',
    title,
    width: 74,
    right: true,
    value: ({ change }) => known(change.ratio)
  });
  const endpointColumns: Column<EndpointChange>[] = [
    { key: 'endpoint', title: 'endpoint', width: 150, grows: true, value: ({ endpoint }) => endpoint },
    textColumn('service', 'service', ({ service }) => service, { width: 80 }),
    countColumn('a', 'A, requests', ({ count }) => count.before, { width: 84 }),
    countColumn('b', 'B, requests', ({ count }) => count.after, { width: 84 }),
    durationColumn('p50a', 'A, median', ({ p50Ns }) => known(p50Ns.before), { width: 86 }),
    durationColumn('p50b', 'B, median', ({ p50Ns }) => known(p50Ns.after), { width: 86 }),
    durationColumn('p95a', 'A, p95', ({ p95Ns }) => known(p95Ns.before)),
    durationColumn('p95b', 'B, p95', ({ p95Ns }) => known(p95Ns.after)),
    changeColumn('median')
  ];
  const callColumns: Column<CallChange>[] = [
    { key: 'name', title: 'call', width: 170, grows: true, value: ({ name }) => name },
    ratioColumn('na', 'A, a request', ({ perRequest }) => known(perRequest.before), { width: 86 }),
    ratioColumn('nb', 'B, a request', ({ perRequest }) => known(perRequest.after), { width: 86 }),
    durationColumn('ea', 'A, each', ({ eachNs }) => known(eachNs.before), { width: 86 }),
    durationColumn('eb', 'B, each', ({ eachNs }) => known(eachNs.after), { width: 86 }),
    countColumn('fa', 'A, failed', ({ failed }) => failed.before, { width: 80 }),
    countColumn('fb', 'B, failed', ({ failed }) => failed.after, { width: 80 }),
    changeColumn('each')
  ];
  const ofEndpoint = ({ service, endpoint }: EndpointChange): string =>
    compareLink({
      before: { ...scopes.before, service, endpoint },
      after: { ...scopes.after, service, endpoint }
    });
</script>

{#snippet change({ change }: { change: EndpointChange['change'] })}
  {@const look = changeLook(change, 'that of side A')}
  <span class="block text-right num {TONES[look.tone]}" title={look.words}>{look.text}</span>
{/snippet}

{#if answer.value}
  {#if what === 'endpoints'}
    <DataTable
      label="Every endpoint"
      kind="endpoint"
      rows={answer.value.endpoints}
      columns={endpointColumns}
      keyOf={({ id }) => String(id)}
      hrefOf={ofEndpoint}
      sort=""
      file="endpoints"
    >
      {#snippet head()}<h2 class="text-[13px] text-ink">Every endpoint, clear changes first</h2>{/snippet}
      {#snippet cell(row, { key })}
        {#if key === 'change'}{@render change(row)}
        {:else}<span class="truncate font-[560]">{row.endpoint}</span>{/if}
      {/snippet}
    </DataTable>
  {:else}
    <DataTable
      label="Every kind of call"
      kind="call group"
      rows={answer.value.calls}
      columns={callColumns}
      keyOf={({ id }) => String(id)}
      sort=""
      file="calls"
    >
      {#snippet head()}<h2 class="text-[13px] text-ink">
          Every kind of call, clear changes of each call’s time first
        </h2>{/snippet}
      {#snippet cell(row, { key })}
        {#if key === 'change'}{@render change(row)}
        {:else}<span class="flex min-w-0 items-center" title={row.name}
            ><AccountChip account={partAccount(row.kind)} /><span class="min-w-0 truncate num"
              >{shortStatement(row.name)}</span
            ></span
          >{/if}
      {/snippet}
    </DataTable>
  {/if}
{:else}<Asking of={answer} doing="Reading both sides…" />{/if}
