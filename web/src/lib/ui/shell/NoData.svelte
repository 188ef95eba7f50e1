<script lang="ts">
  import type { Snippet } from 'svelte';
  import { page } from '$app/state';
  import { NO_PICKS } from '$lib/scope';
  import Empty from '$lib/ui/kit/Empty.svelte';
  import { dateTime } from '$lib/ui/kit/time';
  import { viewLink } from './links';
  import SendTraces from './SendTraces.svelte';

  /** In place of a view whose time range or filters leave nothing: the way to where the data is. */
  let { title, children }: { title: string; children?: Snippet } = $props();

  const BEFORE_MS = 30 * 60_000;
  const newestMs = $derived((page.data as { newestMs?: number | null }).newestMs ?? null);
  const path = $derived(page.url.pathname);
  const newest = $derived(
    newestMs === null ? '' : viewLink(path, { from: newestMs - BEFORE_MS, to: newestMs })
  );
  const anywhere = $derived(
    newestMs === null
      ? ''
      : viewLink(path, {
          ...NO_PICKS,
          service: '',
          endpoint: '',
          host: '',
          release: '',
          from: newestMs - BEFORE_MS,
          to: newestMs
        })
  );
</script>

<Empty {title}>
  {@render children?.()}
  {#if newestMs === null}
    <SendTraces />
  {:else}
    <p>Try a wider time range or fewer filters. The newest requests are from {dateTime(newestMs)}.</p>
    <p class="flex flex-wrap gap-1.5">
      <a class="button button-solid" href={newest}>Show the newest</a>
      {#if anywhere !== newest}<a class="button" href={anywhere}>Show the newest, without filters</a>{/if}
      <a class="button" href={viewLink(path, { last: '24h', from: undefined, to: undefined })}
        >Show the last 24 hours</a
      >
    </p>
  {/if}
</Empty>
