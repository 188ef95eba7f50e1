<script lang="ts">
  import { formatDuration } from '@tromix/core/text/format';
  import type { VisitEvent } from '@tromix/core/pages/visit';
  import type { OneVisit } from '$lib/server/queries/pages/one-visit';
  import { exactTime } from '$lib/ui/kit/time';
  import FactTable from '$lib/ui/kit/FactTable.svelte';
  import BehindIt from './BehindIt.svelte';
  import { formatVital } from './vital-words';
  import { loadLink } from './page-links';

  /** What is known of one thing that happened in a visit, and the ways on from it. */
  interface Props {
    events: readonly VisitEvent[];
    visit: OneVisit;
    at: number;
    onchoose: (at: number) => void;
  }
  let { events, visit, at, onchoose }: Props = $props();
  const event = $derived(events[at]);
  const load = $derived(visit.loads[event.load]);
  const caused = $derived(
    events.flatMap(({ cause, label, kind }, i) => (cause === at ? [{ i, label, kind }] : []))
  );
  /** Of a load its document; of calls each of them. */
  const spans = $derived(
    new Set(
      (event.kind === 'load'
        ? load.resources.filter(({ kind }) => kind === 'document')
        : event.resources.map((i) => load.resources[i])
      )
        .map(({ spanId }) => spanId)
        .filter(Boolean)
    )
  );
  const behind = $derived(visit.requests.filter(({ spanId }) => spans.has(spanId)));
  const error = $derived(
    event.kind === 'error'
      ? load.errors.find(({ atMs }) => Math.abs(load.atUs / 1000 + atMs - event.fromMs) < 0.01)
      : undefined
  );
</script>

<h3 class="mt-3 mb-1.5 heading">Selected: {event.label}</h3>
<FactTable
  facts={[
    ['at', exactTime(event.fromMs)],
    ...(event.toMs > event.fromMs
      ? ([['took', formatDuration((event.toMs - event.fromMs) * 1e6)]] as [string, string][])
      : []),
    ...(event.kind === 'load' && load.vitals.lcp !== undefined
      ? ([['largest paint', formatVital('lcp', load.vitals.lcp)]] as [string, string][])
      : []),
    ['on the page', load.page]
  ]}
/>
{#if error?.stack}<pre
    class="mt-2 max-h-40 overflow-auto num text-[11px] whitespace-pre-wrap">{error.stack}</pre>{/if}
{#if event.kind === 'load'}<p class="mt-2">
    <a class="button button-solid" href={loadLink(load.traceId)}>Open this load</a>
  </p>{/if}
{#if event.cause >= 0}<p class="mt-2">
    Came of <button class="underline decoration-dotted" onclick={() => onchoose(event.cause)}
      >{events[event.cause].label}</button
    >.
  </p>{/if}
{#if caused.length > 0}
  <h3 class="mt-3 mb-1.5 heading">What came of it</h3>
  <ul>
    {#each caused as { i, label } (i)}<li>
        <button class="text-left underline decoration-dotted" onclick={() => onchoose(i)}>{label}</button>
      </li>{/each}
  </ul>
{/if}
{#if event.kind === 'call' || event.kind === 'load'}<BehindIt requests={behind} asked={spans.size} />{/if}
