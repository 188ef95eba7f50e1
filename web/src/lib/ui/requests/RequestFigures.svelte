<script lang="ts">
  import { apdexRating, SMALL_GROUP } from '@tromix/core/stats/apdex';
  import { formatCount, formatDuration } from '@tromix/core/text/format';
  import type { RequestList } from '$lib/server/queries/requests';

  /** Figures of all requests that match. */
  let { list }: { list: RequestList } = $props();
  const rows = $derived([
    ['requests', formatCount(list.count)],
    ['failed', formatCount(list.failed)],
    ['median', formatDuration(list.p50Ns)],
    ['p95', formatDuration(list.p95Ns)],
    ['p99', formatDuration(list.p99Ns)],
    ['Apdex', list.count ? `${list.apdex.score.toFixed(2)} ${apdexRating(list.apdex.score)}` : '–']
  ]);
</script>

<h3 class="mt-3 mb-1 heading">All that match</h3>
<table class="w-full num">
  <tbody>
    {#each rows as [name, value] (name)}
      <tr class="border-b border-grid last:border-0"
        ><th scope="row" class="py-1 text-left font-normal">{name}</th><td class="text-right">{value}</td></tr
      >
    {/each}
  </tbody>
</table>
<p class="mt-1 text-[11px] text-ink-3">
  Percentiles are exact, by linear interpolation; the Apdex uses each endpoint’s T.{list.count > 0 &&
  list.count < SMALL_GROUP
    ? ` With fewer than ${SMALL_GROUP} requests, the Apdex says little.`
    : ''}
</p>
