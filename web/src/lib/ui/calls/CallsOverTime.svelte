<script lang="ts">
  import { formatCount, formatDuration } from '@tromix/core/text/format';
  import type { CallPoint } from '$lib/server/queries/calls';
  import { shortTime } from '$lib/ui/kit/time';

  /** Four small pictures on one time axis: how often, by how many requests (of one group) or how long in all, how long each, and most in one request. */
  let {
    series,
    fromMs,
    toMs,
    stepMs,
    resolution,
    ofGroup
  }: {
    series: CallPoint[];
    fromMs: number;
    toMs: number;
    stepMs: number;
    /** A bin in words. */
    resolution: string;
    /** Of one call group: a request that makes calls of several groups would be counted for each. */
    ofGroup: boolean;
  } = $props();
  const HEIGHT = 56;
  let width = $state(780);
  const each = $derived((width - 24) / 4);
  const plot = $derived(Math.max(40, each - 14));
  const first = $derived(Math.floor(fromMs / stepMs) * stepMs);
  const x = $derived((ms: number) => ((ms - first) / Math.max(stepMs, toMs - first)) * plot);
  const PICTURES: {
    name: string;
    of: (point: CallPoint) => number;
    text: (value: number) => string;
    line: boolean;
  }[] = $derived([
    { name: `calls per ${resolution}`, of: ({ calls }) => calls, text: formatCount, line: false },
    ofGroup
      ? { name: `requests per ${resolution}`, of: ({ requests }) => requests, text: formatCount, line: false }
      : { name: `time per ${resolution}`, of: ({ totalNs }) => totalNs, text: formatDuration, line: false },
    { name: 'p95 of a call', of: ({ p95Ns }) => p95Ns, text: formatDuration, line: true },
    { name: 'most in one request', of: ({ mostCalls }) => mostCalls, text: formatCount, line: true }
  ]);
</script>

<div class="flex gap-2 px-4 py-1.5" bind:clientWidth={width}>
  {#each PICTURES as { name, of, text, line } (name)}
    {@const top = Math.max(1e-9, ...series.map(of))}
    {@const y = (value: number) => HEIGHT - (value / top) * (HEIGHT - 4)}
    <figure class="min-w-0 flex-1">
      <figcaption class="flex justify-between text-[11px] text-ink-3">
        <span class="truncate">{name}</span><span class="num text-[11px]"
          >{series.length > 0 ? `up to ${text(top)}` : '–'}</span
        >
      </figcaption>
      <svg
        width={plot}
        height={HEIGHT + 13}
        class="block"
        role="img"
        aria-label="{name} over time, at most {text(top)}"
      >
        <path d="M0 {HEIGHT}H{plot}M0 {HEIGHT / 2}H{plot}" stroke="var(--grid)" />
        {#if line}
          <path
            d={series
              .map(
                (point, i) =>
                  `${i === 0 || point.at - series[i - 1].at > stepMs * 3 ? 'M' : 'L'}${x(point.at + stepMs / 2).toFixed(1)} ${y(of(point)).toFixed(1)}`
              )
              .join('')}
            fill="none"
            stroke="var(--pen)"
            stroke-width="1.4"
          />
        {:else}
          {#each series as point (point.at)}
            <rect
              x={x(point.at)}
              y={y(of(point))}
              width={Math.max(1, x(point.at + stepMs) - x(point.at) - 0.6)}
              height={HEIGHT - y(of(point))}
              fill="var(--steer)"
              opacity="0.4"
            />
          {/each}
        {/if}
        <text x="0" y={HEIGHT + 11} class="fill-ink-3 font-mono text-[10px]">{shortTime(fromMs)}</text>
        <text x={plot} y={HEIGHT + 11} text-anchor="end" class="fill-ink-3 font-mono text-[10px]"
          >{shortTime(toMs)}</text
        >
      </svg>
    </figure>
  {/each}
</div>
