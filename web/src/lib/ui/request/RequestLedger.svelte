<script lang="ts">
  import Hint from '$lib/ui/kit/Hint.svelte';
  import type { Ledger } from '@tromix/core/trace/account';
  import { formatDuration, formatShare } from '@tromix/core/text/format';
  import AccountChip from '$lib/ui/ledger/AccountChip.svelte';
  import { ACCOUNTS, LOOKS } from '$lib/ui/ledger/accounts';

  interface Props {
    ledger: Ledger;
    durationNs: number;
    /** Part of own code that samples know of, and no span. */
    seenNs: number;
  }
  let { ledger, durationNs, seenNs }: Props = $props();
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
    .join(', ')}"
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
