<script lang="ts">
  import { formatDuration } from '@tromix/core/text/format';
  import type { RequestRow } from '$lib/server/queries/requests';
  import { exactTime } from '$lib/ui/kit/time';
  import LedgerBar from '$lib/ui/ledger/LedgerBar.svelte';
  import type { Column } from '$lib/ui/tables/columns';

  /** A cell of the list of requests that is more than a text. */
  let { row, column }: { row: RequestRow; column: Column<RequestRow> } = $props();
</script>

{#if column.key === 'endpoint'}
  <span class="font-[560]"
    >{#if row.failed}<span class="text-alarm" title="failed">✕<span class="sr-only">failed</span></span>
    {/if}{row.endpoint}</span
  >
{:else if column.key === 'findings'}
  {#if row.findings > 0}<span class="text-pen" aria-hidden="true">◆</span> {row.findings}{/if}
{:else if column.key === 'ledger'}
  <LedgerBar ledger={row.ledger} width={84} />
{:else if column.key === 'duration'}
  <b class="font-semibold">{formatDuration(row.durationNs)}</b>
{:else}
  {@const value = column.key === 'at' ? exactTime(row.startUs / 1000) : column.value!(row)}
  <span class="num text-ink-2" title={String(value)}>{value}</span>
{/if}
