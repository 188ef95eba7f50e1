<script lang="ts">
  import { formatDuration } from '@tromix/core/text/format';
  import { LOOKS } from '$lib/ui/ledger/accounts';
  import LedgerBar from '$lib/ui/ledger/LedgerBar.svelte';
  import { countColumn, durationColumn, shareColumn, textColumn } from '$lib/ui/tables/column-makers';
  import type { Column } from '$lib/ui/tables/columns';
  import DataTable from '$lib/ui/tables/DataTable.svelte';
  import { accountsOf, byService, type ServiceRow } from './by-service';
  import type { RequestModel } from './request-model';

  let { model }: { model: RequestModel } = $props();
  const rows = $derived(byService(model));
  const whole = $derived(Math.max(1, model.request.durationNs));
  const columns = $derived.by((): Column<ServiceRow>[] => [
    textColumn('service', 'service', ({ service }) => service),
    textColumn('hosts', 'hosts', ({ hosts }) => hosts, { width: 100, grows: true }),
    durationColumn('booked', 'booked', ({ bookedNs }) => bookedNs, {
      width: 80,
      about: 'Its part of the critical path'
    }),
    shareColumn('share', 'share', ({ bookedNs }) => bookedNs / whole, { about: 'Of this request' }),
    { key: 'ledger', title: 'where it goes', width: 130 },
    { key: 'most', title: 'most of it', width: 150, value: ({ ledger }) => accountsOf(ledger)[0] ?? '' },
    countColumn('requests', 'requests', ({ requests }) => requests, { width: 70 }),
    countColumn('spans', 'spans', ({ spans }) => spans, { width: 60 })
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
