<script lang="ts">
  import type { DifferenceLedger } from '@tromix/core/compare/difference-ledger';
  import type { Sides } from '@tromix/core/sides';
  import { formatCount } from '@tromix/core/text/format';
  import Asking from '$lib/ui/frame/Asking.svelte';
  import { resource } from '$lib/ui/frame/resource.svelte';
  import LedgerRibbons from './LedgerRibbons.svelte';
  import PartsTable from './PartsTable.svelte';
  import type { SideTracesClient } from './side-traces-client';
  import type { Snippet } from 'svelte';

  /** A ledger that sums do not tell, from the spans of the newest requests of both sides. */
  interface Props {
    client: SideTracesClient;
    /** What is asked of it. */
    ask: (client: SideTracesClient) => Promise<DifferenceLedger>;
    title: string;
    /** Requests of both sides. */
    requests: Sides<number>;
    ribbons?: boolean;
    choices?: Snippet;
    /** Every line stands in it. */
    all: boolean;
    onall: () => void;
  }
  let { client, ask, title, requests, ribbons = false, choices, all, onall }: Props = $props();
  const answer = resource(
    () => client,
    async (of) => ({ ledger: await ask(of), count: await of.count() })
  );
  const isPart = $derived(
    answer.value !== null &&
      (answer.value.count.before < requests.before || answer.value.count.after < requests.after)
  );
</script>

{#if answer.value}
  {#if ribbons}<LedgerRibbons ledger={answer.value.ledger} />{/if}
  <PartsTable ledger={answer.value.ledger} {title} {choices} {all} {onall} />
  {#if isPart}<p class="px-4 py-1 text-[11px] text-ink-3">
      Of the newest {formatCount(answer.value.count.before)} of {formatCount(requests.before)} requests of A, and
      {formatCount(answer.value.count.after)} of {formatCount(requests.after)} of B: these are read span by span.
    </p>{/if}
{:else}
  {#if choices}<div class="px-4 py-1.5 text-ink-2">{@render choices()}</div>{/if}
  <Asking of={answer} doing="Reading the newest requests of both sides span by span…" />
{/if}
