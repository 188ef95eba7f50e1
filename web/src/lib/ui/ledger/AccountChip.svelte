<script lang="ts">
  import type { Account } from '@tromix/core/trace/account';
  import { LOOKS } from './accounts';

  let { account }: { account: Account } = $props();
  const look = $derived(LOOKS[account]);
</script>

<span
  class="mr-1.5 inline-grid size-[15px] flex-none place-items-center rounded-[3px] font-mono text-[10px] leading-none font-semibold"
  style:background={look.colour}
  style:color={look.on}
  title={look.name}
  aria-hidden="true">{look.letter}</span
>
