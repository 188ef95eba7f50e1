<script lang="ts">
  import { formatCount, formatDuration, formatShare } from '@tromix/core/text/format';
  import type { EndpointPage } from '$lib/server/queries/endpoint';
  import { viewLink } from '$lib/ui/shell/links';
  import { classesOf, classFrom, classOf, durationTicks } from './duration-scale';

  let { page }: { page: EndpointPage } = $props();
  const HEIGHT = 96;
  let width = $state(400);
  const classes = $derived(classesOf([page.histogram]));
  const bar = $derived(width / classes.count);
  const most = $derived(Math.max(1, ...page.histogram.map(([, count]) => count)));
  const x = $derived((ns: number) => (classOf(ns) - classes.first) * bar);
  const ticks = $derived(durationTicks(classes, 6));
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

<div bind:clientWidth={width}>
  <svg
    {width}
    height={HEIGHT + 16}
    class="block"
    role="img"
    aria-label="Distribution of durations: median {formatDuration(page.p50Ns)}, p95 {formatDuration(
      page.p95Ns
    )}, p99 {formatDuration(page.p99Ns)}"
  >
    {#each ticks as tick (tick)}
      <path d="M{x(tick)} 0V{HEIGHT}" stroke="var(--grid)" />
      <text x={Math.min(width - 30, x(tick) + 2)} y={HEIGHT + 12} class="fill-ink-3 font-mono text-[10px]"
        >{formatDuration(tick)}</text
      >
    {/each}
    {#each page.histogram as [at, count] (at)}
      <rect
        x={(at - classes.first) * bar + 0.5}
        y={HEIGHT - Math.max(1, (count / most) * (HEIGHT - 8))}
        width={Math.max(1, bar - 1)}
        height={Math.max(1, (count / most) * (HEIGHT - 8))}
        fill={zoneOf(at)}
        ><title
          >{formatDuration(classFrom(at))} to {formatDuration(classFrom(at + 1))}: {formatCount(count)}</title
        ></rect
      >
    {/each}
    {#each [{ ns: page.p50Ns, name: '50' }, { ns: page.p95Ns, name: '95' }] as { ns, name } (name)}
      <path d="M{x(ns)} 0V{HEIGHT}" stroke="var(--pen)" stroke-width="1.3" />
      <text x={x(ns) + 3} y={9} class="fill-pen font-mono text-[10px]">p{name}</text>
    {/each}
    <path d="M0 {HEIGHT}H{width}" stroke="var(--rule)" />
  </svg>
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
