<script lang="ts">
  import Hint from '$lib/ui/kit/Hint.svelte';
  import type { Ledger } from '@tromix/core/trace/account';
  import { formatDuration, formatShare } from '@tromix/core/text/format';
  import AccountChip from '$lib/ui/ledger/AccountChip.svelte';
  import type { FailedAt } from './failed-at';
  import { ACCOUNTS, LOOKS } from '$lib/ui/ledger/accounts';

  interface Props {
    ledger: Ledger;
    durationNs: number;
    /** Part of own code that samples know of, and no span. */
    seenNs: number;
    /** Where it failed, as far as it is told. */
    failed?: FailedAt | null;
  }
  let { ledger, durationNs, seenNs, failed = null }: Props = $props();
  const order = $derived(
    ACCOUNTS.filter((account) => ledger[account] > 0).toSorted((a, b) => ledger[b] - ledger[a])
  );
  const whole = $derived(Math.max(1, durationNs));
</script>

<div
  class="mx-4 flex h-[30px] flex-none overflow-hidden rounded-[3px] border border-ink"
  role="img"
  aria-label="Ledger: {order
    .map((account) => `${LOOKS[account].name} ${formatDuration(ledger[account])}`)
    .join(', ')}{failed ? `; failed in ${LOOKS[failed.account].name}: ${failed.what}` : ''}"
>
  {#each order as account (account)}
    {@const part = ledger[account] / whole}
    <div
      class="overflow-hidden border-r border-sheet pl-[7px] font-mono text-[11px] leading-[30px] font-semibold whitespace-nowrap last:border-0"
      style:flex="{part} 1 0"
      style:background={LOOKS[account].colour}
      style:color={LOOKS[account].on}
      title="{LOOKS[account].name}: {formatDuration(ledger[account])}"
    >
      {#if part > 0.02}{LOOKS[account].letter}{/if}{#if part > 0.1}&nbsp;{formatDuration(
          ledger[account]
        )}{/if}
    </div>
    {#if failed?.account === account}
      <div
        class="flex-none border-r border-sheet bg-alarm px-1.5 font-mono text-[12px] leading-[30px] font-semibold text-sheet"
        title="Failed here: {failed.what}, in {failed.span} of {failed.service}"
        aria-hidden="true"
      >
        ✕
      </div>
    {/if}
  {/each}
</div>
<div class="mx-4 mt-1 mb-2.5 flex flex-wrap gap-x-4 text-[12px] text-ink-2">
  {#each order as account (account)}
    <span class="inline-flex items-center"
      ><AccountChip {account} />{LOOKS[account].name}
      {formatShare(ledger[account] / whole)}</span
    >
  {/each}
  <span class="ml-auto"
    >{#if seenNs > 0}{formatDuration(seenNs)} of own code known from samples ·
    {/if}<Hint of="ledger">Ledger</Hint>: every nanosecond booked once</span
  >
</div>
