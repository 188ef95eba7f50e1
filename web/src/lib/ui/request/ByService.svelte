<script lang="ts">
  import { formatCount, formatDuration, formatShare } from '@tromix/core/text/format';
  import { LOOKS } from '$lib/ui/ledger/accounts';
  import LedgerBar from '$lib/ui/ledger/LedgerBar.svelte';
  import type { Column } from '$lib/ui/tables/columns';
  import DataTable from '$lib/ui/tables/DataTable.svelte';
  import { accountsOf, byService, type ServiceRow } from './by-service';
  import type { RequestModel } from './request-model';

  let { model }: { model: RequestModel } = $props();
  const rows = $derived(byService(model));
  const whole = $derived(Math.max(1, model.request.durationNs));
  const columns = $derived.by((): Column<ServiceRow>[] => [
    {
      key: 'service',
      title: 'service',
      width: 110,
      value: ({ service }) => service,
      text: ({ service }) => service
    },
    {
      key: 'hosts',
      title: 'hosts',
      width: 100,
      grows: true,
      value: ({ hosts }) => hosts,
      text: ({ hosts }) => hosts
    },
    {
      key: 'booked',
      title: 'booked',
      about: 'Its part of the critical path',
      width: 80,
      right: true,
      value: ({ bookedNs }) => bookedNs,
      text: ({ bookedNs }) => formatDuration(bookedNs)
    },
    {
      key: 'share',
      title: 'share',
      about: 'Of this request',
      width: 60,
      right: true,
      value: ({ bookedNs }) => bookedNs / whole,
      text: ({ bookedNs }) => formatShare(bookedNs / whole)
    },
    { key: 'ledger', title: 'where it goes', width: 130 },
    { key: 'most', title: 'most of it', width: 150, value: ({ ledger }) => accountsOf(ledger)[0] ?? '' },
    {
      key: 'requests',
      title: 'requests',
      width: 70,
      right: true,
      value: ({ requests }) => requests,
      text: ({ requests }) => formatCount(requests)
    },
    {
      key: 'spans',
      title: 'spans',
      width: 60,
      right: true,
      value: ({ spans }) => spans,
      text: ({ spans }) => formatCount(spans)
    }
  ]);
</script>

<DataTable
  label="By service"
  {rows}
  {columns}
  keyOf={({ service }) => service}
  sort="-booked"
  param="service-sort"
  file="services-of-request"
>
  {#snippet cell(row, column)}
    {#if column.key === 'ledger'}<LedgerBar ledger={row.ledger} />
    {:else}
      {@const [first] = accountsOf(row.ledger)}
      {#if first}{LOOKS[first].name}
        <span class="num text-ink-2">{formatDuration(row.ledger[first])}</span>{/if}
    {/if}
  {/snippet}
</DataTable>
