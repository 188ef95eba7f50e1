<script lang="ts">
  import type { CallGroup } from '@tromix/core/calls/groups';
  import AccountChip from '$lib/ui/ledger/AccountChip.svelte';
  import { shortStatement } from '$lib/ui/calls/short-statement';
  import { partAccount } from '$lib/ui/endpoint/part-kinds';
  import { countColumn, durationColumn, rareColumn, shareColumn } from '$lib/ui/tables/column-makers';
  import type { Column } from '$lib/ui/tables/columns';
  import DataTable from '$lib/ui/tables/DataTable.svelte';
  import type { RequestModel } from './request-model';

  let { model }: { model: RequestModel } = $props();
  const whole = $derived(Math.max(1, model.request.durationNs));
  const columns = $derived.by((): Column<CallGroup>[] => [
    { key: 'call', title: 'call group', width: 220, grows: true, value: ({ fingerprint }) => fingerprint },
    countColumn('count', 'count', ({ count }) => count, { width: 60 }),
    countColumn('distinct', 'distinct', ({ distinct }) => distinct, {
      width: 64,
      about: 'Different values, where they were recorded'
    }),
    durationColumn('total', 'total', ({ totalNs }) => totalNs),
    durationColumn('booked', 'booked', ({ bookedNs }) => bookedNs, {
      about: 'Its own part of the critical path'
    }),
    shareColumn('share', 'share', ({ bookedNs }) => bookedNs / whole, { about: 'Booked, of this request' }),
    durationColumn('fastest', 'fastest', ({ fastestNs }) => fastestNs),
    durationColumn('slowest', 'slowest', ({ slowestNs }) => slowestNs),
    rareColumn('failed', 'failed', ({ failed }) => failed, { width: 54 })
  ]);
</script>

<DataTable
  label="By call group"
  kind="call group"
  rows={model.groups}
  {columns}
  keyOf={({ kind, fingerprint }) => `${kind} ${fingerprint}`}
  sort="-total"
  param="group-sort"
  file="calls-of-request"
  rowHeight={40}
  empty="This request made no calls."
>
  {#snippet cell(row)}
    <span class="flex min-w-0 items-center" title="{row.fingerprint}{row.origin ? `\n${row.origin}` : ''}">
      <AccountChip account={partAccount(row.kind)} />
      <span class="min-w-0"
        ><span class="block truncate num">{shortStatement(row.fingerprint)}</span>{#if row.origin}<span
            class="block truncate text-[11px] text-ink-3">{row.origin}</span
          >{/if}</span
      >
    </span>
  {/snippet}
</DataTable>
