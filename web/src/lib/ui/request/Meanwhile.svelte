<script lang="ts">
  import { plural } from '@tromix/core/text/format';
  import { viewLink } from '$lib/ui/shell/links';
  import type { CountersMeanwhile } from './counters-meanwhile.svelte';
  import { meanwhileWords } from './meanwhile-words';

  /** What the hosts and processes of a request told at its time: busy cores, waits, a held event loop, a used-up pool. */
  let { counters }: { counters: CountersMeanwhile } = $props();

  const BESIDE_MS = 5 * 60_000;
  const { fromMs, toMs } = $derived(counters);
  const told = $derived(counters.told.map((one) => ({ one, ...meanwhileWords(one) })));
  const notable = $derived(told.filter(({ stands }) => stands.length > 0));
  const quiet = $derived(told.filter(({ stands, known }) => stands.length === 0 && known.length > 0));
</script>

{#if counters.error}<p class="mt-3 text-ink-3">{counters.error}</p>
{:else if told.some(({ known }) => known.length > 0)}
  <section class="mt-3" aria-label="Meanwhile">
    <h3 class="mb-1 heading">Meanwhile</h3>
    {#each notable as { one, stands, known } (`${one.host} ${one.pid} ${one.service}`)}
      <p class="mt-1">
        <b class="font-semibold">{one.service} on {one.host}</b>: {stands.join(', ')}.
        {#if known.length > 0}<span class="text-ink-3">{known.join(', ')}.</span>{/if}
        <a
          class="underline decoration-dotted"
          href={viewLink(
            '/hosts',
            { service: '', endpoint: '', host: '', from: fromMs - BESIDE_MS, to: toMs + BESIDE_MS },
            { one: one.host }
          )}>Hosts around it</a
        >
      </p>
    {/each}
    {#if quiet.length > 0}<p class="mt-1 text-ink-2">
        {notable.length > 0 ? 'The others:' : ''}
        {plural(quiet.length, 'process', 'processes')} of {[
          ...new Set(quiet.map(({ one }) => one.host))
        ].join(', ')} told of nothing that stands out.
      </p>{/if}
    <p class="text-[11px] text-ink-3">By their counters within 15 s of it.</p>
  </section>
{/if}
