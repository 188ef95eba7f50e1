<script lang="ts">
  import { ACCOUNTS, type Ledger } from '@tromix/core/trace/account';
  import { formatShare } from '@tromix/core/text/format';
  import { LOOKS } from './accounts';

  let { ledger, width = 112 }: { ledger: Ledger; width?: number } = $props();
  const sum = $derived(ACCOUNTS.reduce((all, account) => all + ledger[account], 0));
  const parts = $derived(ACCOUNTS.filter((account) => ledger[account] > 0));
  const words = $derived(
    parts
      .toSorted((a, b) => ledger[b] - ledger[a])
      .map((account) => `${LOOKS[account].name} ${formatShare(ledger[account] / sum)}`)
      .join(', ')
  );
</script>

<span
  class="flex h-[11px] overflow-hidden rounded-[2px]"
  style:width="{width}px"
  role="img"
  aria-label={words}
  title={words}
>
  {#each parts as account (account)}
    <i style:flex-grow={ledger[account] / sum} style:background={LOOKS[account].colour}></i>
  {/each}
</span>
