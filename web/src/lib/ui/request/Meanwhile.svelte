<script lang="ts">
  import { plural } from '@tromix/core/text/format';
  import type { Meanwhile, TakingPart } from '$lib/server/queries/meanwhile';
  import { resource } from '$lib/ui/frame/resource.svelte';
  import { viewLink } from '$lib/ui/shell/links';
  import { meanwhileWords } from './meanwhile-words';
  import type { RequestModel } from './request-model';

  /** What the hosts and processes of a request told at its time: busy cores, waits, a held event loop, a used-up pool. */
  let { model }: { model: RequestModel } = $props();

  const MOST = 50;
  const BESIDE_MS = 5 * 60_000;
  const taking = $derived.by(() => {
    const found = new Map<string, TakingPart>();
    for (const { span } of model.trace.tree.nodes) {
      const { host, pid, service } = span.resource;
      found.set(`${host} ${pid} ${service}`, { host, pid, service });
    }
    return [...found.values()].slice(0, MOST);
  });
  const fromMs = $derived(Math.floor(model.trace.tree.nodes[model.root].span.startUs / 1000));
  const toMs = $derived(Math.ceil(fromMs + model.request.durationNs / 1e6));
  const asked = resource(
    () => ({ taking, fromMs, toMs }),
    async ({ taking: processes, fromMs: from, toMs: to }, signal): Promise<Meanwhile[]> => {
      const query = new URLSearchParams({
        processes: JSON.stringify(processes),
        from: String(from),
        to: String(to)
      });
      const response = await fetch(`/api/counters/meanwhile?${query}`, { signal });
      if (!response.ok) throw new Error('What the hosts did meanwhile could not be read.');
      return (await response.json()) as Meanwhile[];
    }
  );
  const told = $derived((asked.value ?? []).map((one) => ({ one, ...meanwhileWords(one) })));
  const notable = $derived(told.filter(({ stands }) => stands.length > 0));
  const quiet = $derived(told.filter(({ stands, known }) => stands.length === 0 && known.length > 0));
</script>

{#if asked.error}<p class="mt-3 text-ink-3">{asked.error}</p>
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
