<script lang="ts">
  import type { CallRows } from '$lib/call-choices';
  import type { CallRow } from '$lib/server/queries/calls/calls';
  import { partAccount } from '$lib/ui/endpoint/part-kinds';
  import AccountChip from '$lib/ui/ledger/AccountChip.svelte';
  import { shortStatement } from './short-statement';

  /** What a row of calls is of, with the line that makes most of them and the endpoint that asks most. */
  interface Props {
    row: CallRow;
    rows: CallRows;
    /** It is what is called, rather than who calls. */
    isCall: boolean;
  }
  let { row, rows, isCall }: Props = $props();
  const isPlain = $derived(rows === 'endpoint' || rows === 'service' || rows === 'host');
  const below = $derived(
    [row.origin, row.asker].filter(Boolean).join(' · ') || (rows === 'endpoint' ? row.detail : '')
  );
</script>

<span
  class="flex min-w-0 items-center"
  title={[row.fingerprint || row.name, row.origin, row.asker].filter(Boolean).join('\n')}
>
  {#if isCall}<AccountChip account={partAccount(row.detail)} />{/if}
  <span class="min-w-0">
    <span class="block truncate {isPlain ? 'font-[560]' : 'num'}">{shortStatement(row.name)}</span>
    {#if below}<span class="block truncate text-[11px] text-ink-3">{below}</span>{/if}
  </span>
</span>
