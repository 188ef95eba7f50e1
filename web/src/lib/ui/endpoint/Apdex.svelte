<script lang="ts">
  import Hint from '$lib/ui/kit/Hint.svelte';
  import { apdexRating, SMALL_GROUP } from '@tromix/core/stats/apdex';
  import { invalidate } from '$app/navigation';
  import type { EndpointPage } from '$lib/server/queries/endpoint';
  import { sendAndSay } from '$lib/ui/frame/send';

  /** The Apdex of an endpoint, and the field that sets its T. */
  let { page }: { page: EndpointPage } = $props();

  const known = $derived(page.tMs);
  // Of the number alone: new data with the same T must not undo what is being typed.
  let t = $derived(known);
  async function setT(): Promise<void> {
    if (t === known) return;
    if (await sendAndSay('POST', '/api/apdex', { endpoint: page.id, tMs: t }, ''))
      await invalidate('tromix:data');
  }
</script>

<h3 class="mt-3 mb-1 heading"><Hint of="apdex" /></h3>
<p>
  <b class="num">{page.count ? page.apdex.toFixed(2) : '–'}</b>
  {page.count ? apdexRating(page.apdex) : ''}{page.count > 0 && page.count < SMALL_GROUP
    ? `, of fewer than ${SMALL_GROUP} requests`
    : ''}
</p>
<label class="mt-1 flex items-center gap-1.5 text-ink-2"
  >T <input
    class="w-20 field text-right num"
    type="number"
    min="1"
    max="600000"
    bind:value={t}
    onchange={() => void setT()}
  /> ms</label
>
<p class="mt-1 text-[11px] text-ink-3">
  A user is satisfied up to T, tolerating up to 4T, and frustrated beyond that or by a failure. Bounds and
  percentiles come from roll-ups, within 1 %.
</p>
