<script lang="ts">
  import FactTable from '$lib/ui/kit/FactTable.svelte';
  import { apdexRating, SMALL_GROUP } from '@tromix/core/stats/apdex';
  import { formatCount, formatDuration } from '@tromix/core/text/format';
  import type { RequestList } from '$lib/server/queries/requests';

  /** Figures of all requests that match. */
  let { list }: { list: RequestList } = $props();
  const facts = $derived<[string, string][]>([
    ['requests', formatCount(list.count)],
    ['failed', formatCount(list.failed)],
    ['median', formatDuration(list.p50Ns)],
    ['p95', formatDuration(list.p95Ns)],
    ['p99', formatDuration(list.p99Ns)],
    ['slowest', formatDuration(list.slowestNs)],
    ['Apdex', list.count ? `${list.apdex.score.toFixed(2)} ${apdexRating(list.apdex.score)}` : '–']
  ]);
</script>

<h3 class="mt-3 mb-1 heading">All that match</h3>
<FactTable {facts} />
<p class="mt-1 text-[11px] text-ink-3">
  Percentiles are exact, by linear interpolation; the Apdex uses each endpoint’s T.{list.count > 0 &&
  list.count < SMALL_GROUP
    ? ` With fewer than ${SMALL_GROUP} requests, the Apdex says little.`
    : ''}
</p>
