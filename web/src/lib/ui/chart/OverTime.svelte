<script lang="ts">
  import { formatCount, formatDuration, plural } from '@tromix/core/text/format';
  import { axisTime, shortTime } from '$lib/ui/kit/time';

  interface Point {
    at: number;
    count: number;
    failed: number;
    p50Ns: number;
    p95Ns: number;
  }
  /** Counts as bars with the failed in them, and p95 over them, the median dashed. */
  let {
    series,
    binMs,
    fromMs,
    toMs,
    what = 'request'
  }: { series: Point[]; binMs: number; fromMs: number; toMs: number; what?: string } = $props();
  const HEIGHT = 84;
  const LEFT = 46;
  const RIGHT = 52;
  let width = $state(780);
  const plot = $derived(Math.max(60, width - LEFT - RIGHT));
  const first = $derived(Math.floor(fromMs / binMs) * binMs);
  const x = $derived((ms: number) => LEFT + ((ms - first) / Math.max(binMs, toMs - first)) * plot);
  const bar = $derived(Math.max(1, (binMs / Math.max(binMs, toMs - first)) * plot - 1));
  const busiest = $derived(Math.max(1, ...series.map(({ count }) => count)));
  const longest = $derived(Math.max(1, ...series.map(({ p95Ns }) => p95Ns)));
  const y = $derived((ns: number) => HEIGHT - (ns / longest) * (HEIGHT - 12));
  const line = (of: (point: Point) => number): string =>
    series
      .map(
        (point, i) =>
          `${i === 0 || point.at - series[i - 1].at > binMs * 3 ? 'M' : 'L'}${(x(point.at) + bar / 2).toFixed(1)} ${y(of(point)).toFixed(1)}`
      )
      .join('');
  const ticks = $derived(Array.from({ length: 6 }, (_, i) => first + ((toMs - first) * i) / 6));
</script>

<div bind:clientWidth={width}>
  <svg
    {width}
    height={HEIGHT + 16}
    class="block"
    role="img"
    aria-label="{plural(
      series.reduce((sum, { count }) => sum + count, 0),
      what
    )} over time, up to {formatCount(busiest)} at once, p95 up to {formatDuration(longest)}"
  >
    {#each [0, 0.5, 1] as part (part)}
      <path d="M{LEFT} {HEIGHT - part * (HEIGHT - 12)}H{LEFT + plot}" stroke="var(--grid)" />
    {/each}
    {#each series as point (point.at)}
      {@const tall = (point.count / busiest) * (HEIGHT - 12)}
      {@const lost = (point.failed / busiest) * (HEIGHT - 12)}
      <rect x={x(point.at)} y={HEIGHT - tall} width={bar} height={tall} fill="var(--steer)" opacity="0.28"
        ><title
          >{shortTime(point.at)}: {plural(point.count, what)}, {point.failed} failed, median {formatDuration(
            point.p50Ns
          )}, p95 {formatDuration(point.p95Ns)}</title
        ></rect
      >
      {#if lost > 0}<rect
          x={x(point.at)}
          y={HEIGHT - Math.max(1.5, lost)}
          width={bar}
          height={Math.max(1.5, lost)}
          fill="var(--alarm)"
        />{/if}
    {/each}
    <path d={line(({ p95Ns }) => p95Ns)} fill="none" stroke="var(--pen)" stroke-width="1.4" />
    <path d={line(({ p50Ns }) => p50Ns)} fill="none" stroke="var(--pen)" stroke-dasharray="4 3" />
    <path d="M{LEFT} {HEIGHT}H{LEFT + plot}" stroke="var(--rule)" />
    <text x={LEFT - 5} y="16" text-anchor="end" class="fill-ink-3 font-mono text-[10px]"
      >{formatCount(busiest)}</text
    >
    <text x={LEFT - 5} y={HEIGHT} text-anchor="end" class="fill-ink-3 text-[10px]">{what}s</text>
    <text x={LEFT + plot + 4} y="16" class="fill-pen font-mono text-[10px]">{formatDuration(longest)}</text>
    <text x={LEFT + plot + 4} y={HEIGHT} class="fill-pen text-[10px]">p95</text>
    {#each ticks as tick (tick)}
      <text x={x(tick)} y={HEIGHT + 13} class="fill-ink-3 font-mono text-[11px]"
        >{axisTime(tick, toMs - first)}</text
      >
    {/each}
  </svg>
</div>
