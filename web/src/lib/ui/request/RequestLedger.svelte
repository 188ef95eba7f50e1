<script lang="ts">
  import Hint from '$lib/ui/kit/Hint.svelte';
  import type { Ledger } from '@tromix/core/trace/account';
  import { formatDuration, formatShare } from '@tromix/core/text/format';
  import AccountChip from '$lib/ui/ledger/AccountChip.svelte';
  import type { LikelyByCounters } from '@tromix/core/trace/by-counters';
  import type { FailedAt } from './failed-at';
  import { ACCOUNTS, LOOKS } from '$lib/ui/ledger/accounts';
  import { explainedWords } from './request-reading';

  interface Props {
    ledger: Ledger;
    durationNs: number;
    /** Part of what is unseen that a profile explains; it comes after the rest, and moves nothing. */
    explainedNs: number;
    /** Where it failed, as far as it is told. */
    failed?: FailedAt | null;
    /** What of own code and unseen time was likely something else, by counters. */
    likely?: LikelyByCounters;
  }
  let {
    ledger,
    durationNs,
    explainedNs,
    failed = null,
    likely = { pauseNs: 0, queueNs: 0 }
  }: Props = $props();
  const order = $derived(
    ACCOUNTS.filter((account) => ledger[account] > 0).toSorted((a, b) => ledger[b] - ledger[a])
  );
  /** Less is not worth a word. */
  const LEAST_SHARE = 0.01;
  const byCounters = $derived(
    [
      { account: 'pause' as const, ns: likely.pauseNs },
      { account: 'queue' as const, ns: likely.queueNs }
    ].filter(({ ns }) => ns >= LEAST_SHARE * whole)
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
      class="relative overflow-hidden border-r border-sheet pl-[7px] font-mono text-[11px] leading-[30px] font-semibold whitespace-nowrap last:border-0"
      style:flex="{part} 1 0"
      style:background={LOOKS[account].colour}
      style:color={LOOKS[account].on}
      title="{LOOKS[account].name}: {formatDuration(ledger[account])}"
    >
      {#if account === 'unseen' && explainedNs > 0}<i
          class="absolute inset-x-0 bottom-0 h-[5px] border-t border-sheet"
          style:right="{(1 - explainedNs / ledger.unseen) * 100}%"
          style:background={LOOKS.ownCode.colour}
          title={explainedWords(explainedNs)}
        ></i>{/if}
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
<div class="mx-4 mt-1 flex flex-wrap gap-x-4 text-[12px] text-ink-2">
  {#each order as account (account)}
    <span class="inline-flex items-center"
      ><AccountChip {account} />{LOOKS[account].name}
      {formatShare(ledger[account] / whole)}</span
    >
  {/each}
</div>
<!-- What comes later has its room from the first. -->
<p
  class="mx-4 mb-2 flex h-[19px] items-center gap-x-4 overflow-hidden text-[12px] whitespace-nowrap text-ink-2"
>
  <span><Hint of="ledger">Ledger</Hint>: every nanosecond booked once</span>
  {#if explainedNs > 0}<span>{explainedWords(explainedNs)}</span>{/if}
  {#each byCounters as { account, ns } (account)}
    <span
      class="inline-flex items-center text-ink-3"
      title="An estimate by what its processes told around it: that time is booked as own code or unseen"
      ><AccountChip {account} />likely {LOOKS[account].name} ≈ {formatDuration(ns)}</span
    >
  {/each}
</p>
