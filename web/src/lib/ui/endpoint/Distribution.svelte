<script lang="ts">
  import { formatCount, formatDuration, formatShare } from '@tromix/core/text/format';
  import type { EndpointPage } from '$lib/server/queries/endpoint';
  import { viewLink } from '$lib/ui/shell/links';
  import { classFrom } from './duration-scale';
  import DurationBars from './DurationBars.svelte';

  let { page }: { page: EndpointPage } = $props();
  const zoneOf = (at: number): string => {
    const ms = classFrom(at + 0.5) / 1e6;
    return ms <= page.tMs ? 'var(--steer)' : ms <= page.tMs * 4 ? 'var(--acc-queue)' : 'var(--alarm)';
  };
  const all = $derived(Math.max(1, page.count));
  const place = $derived({ service: page.service, endpoint: page.endpoint });
  const zones = $derived([
    {
      name: 'satisfied',
      mark: 'bg-steer',
      count: page.zones.satisfied,
      href: viewLink('/requests', { ...place, faster: page.tMs, status: 'ok' })
    },
    {
      name: 'tolerating',
      mark: 'bg-[var(--acc-queue)]',
      count: page.zones.tolerating,
      href: viewLink('/requests', { ...place, slower: page.tMs, faster: page.tMs * 4, status: 'ok' })
    },
    {
      name: 'frustrated',
      mark: 'bg-alarm',
      count: page.zones.frustrated - page.failed,
      href: viewLink('/requests', { ...place, slower: page.tMs * 4, status: 'ok' })
    },
    {
      name: 'failed',
      mark: 'border border-alarm',
      count: page.failed,
      href: viewLink('/requests', { ...place, status: 'failed' })
    }
  ]);
</script>

<div>
  <DurationBars
    histogram={page.histogram}
    height={96}
    label="Distribution of durations: median {formatDuration(page.p50Ns)}, p95 {formatDuration(
      page.p95Ns
    )}, p99 {formatDuration(page.p99Ns)}"
    colourOf={zoneOf}
    marks={[
      { ns: page.p50Ns, text: 'p50', colour: 'var(--pen)' },
      { ns: page.p95Ns, text: 'p95', colour: 'var(--pen)' }
    ]}
  />
  <p class="mt-1 flex flex-wrap gap-x-3 text-[12px]">
    {#each zones as { name, mark, count, href } (name)}
      <a {href} class="inline-flex items-center gap-1 hover:underline"
        ><i class="inline-block size-[9px] {mark}"></i>{formatCount(count)}
        {name}
        <span class="text-ink-3">{formatShare(count / all)}</span></a
      >
    {/each}
  </p>
</div>
