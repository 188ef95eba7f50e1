<script lang="ts">
  import type { CallGroup } from '@tromix/core/calls/groups';
  import { formatCount, formatDuration, formatShare } from '@tromix/core/text/format';
  import AccountChip from '$lib/ui/ledger/AccountChip.svelte';
  import { shortStatement } from '$lib/ui/calls/short-statement';
  import { partAccount } from '$lib/ui/endpoint/part-kinds';
  import type { Column } from '$lib/ui/tables/columns';
  import DataTable from '$lib/ui/tables/DataTable.svelte';
  import type { RequestModel } from './request-model';

  let { model }: { model: RequestModel } = $props();
  const whole = $derived(Math.max(1, model.request.durationNs));
  const columns = $derived.by((): Column<CallGroup>[] => [
    { key: 'call', title: 'call group', width: 220, grows: true, value: ({ fingerprint }) => fingerprint },
    {
      key: 'count',
      title: 'count',
      width: 60,
      right: true,
      value: ({ count }) => count,
      text: ({ count }) => formatCount(count)
    },
    {
      key: 'distinct',
      title: 'distinct',
      about: 'Different values asked for, where they were recorded',
      width: 64,
      right: true,
      value: ({ distinct }) => distinct,
      text: ({ distinct }) => (distinct === null ? '–' : formatCount(distinct))
    },
    {
      key: 'total',
      title: 'total',
      width: 74,
      right: true,
      value: ({ totalNs }) => totalNs,
      text: ({ totalNs }) => formatDuration(totalNs)
    },
    {
      key: 'booked',
      title: 'booked',
      about: 'Its own part of the critical path',
      width: 74,
      right: true,
      value: ({ bookedNs }) => bookedNs,
      text: ({ bookedNs }) => formatDuration(bookedNs)
    },
    {
      key: 'share',
      title: 'share',
      about: 'Booked, of this request',
      width: 58,
      right: true,
      value: ({ bookedNs }) => bookedNs / whole,
      text: ({ bookedNs }) => formatShare(bookedNs / whole)
    },
    {
      key: 'fastest',
      title: 'fastest',
      width: 74,
      right: true,
      value: ({ fastestNs }) => fastestNs,
      text: ({ fastestNs }) => formatDuration(fastestNs)
    },
    {
      key: 'slowest',
      title: 'slowest',
      width: 74,
      right: true,
      value: ({ slowestNs }) => slowestNs,
      text: ({ slowestNs }) => formatDuration(slowestNs)
    },
    {
      key: 'failed',
      title: 'failed',
      width: 54,
      right: true,
      value: ({ failed }) => failed,
      text: ({ failed }) => (failed ? formatCount(failed) : '')
    }
  ]);
</script>

<DataTable
  label="By call group"
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
