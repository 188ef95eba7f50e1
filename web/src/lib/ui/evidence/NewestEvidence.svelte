<script lang="ts">
  import { page } from '$app/state';
  import { aroundIt, type Placed } from '$lib/evidence/in-scope';
  import { dateTime } from '$lib/ui/kit/time';
  import { viewLink } from '$lib/ui/shell/links';

  /** Where a list is empty in this scope: the way to the newest there is. */
  let { items }: { items: readonly Pick<Placed, 'startedAtUs' | 'durationNs'>[] } = $props();
  const newest = $derived(
    items
      .filter(({ startedAtUs }) => startedAtUs !== null)
      .reduce<(typeof items)[number] | null>(
        (best, one) => (best === null || one.startedAtUs! > best.startedAtUs! ? one : best),
        null
      )
  );
  const around = $derived(newest && aroundIt(newest));
</script>

{#if newest && around}
  <a
    class="button"
    href={viewLink(page.url.pathname, { ...around, service: '', endpoint: '', host: '', release: '' })}
    >Show the newest, from {dateTime(newest.startedAtUs! / 1000)}</a
  >
{/if}
