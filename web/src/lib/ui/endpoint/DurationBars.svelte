<script lang="ts">
  import { formatCount, formatDuration } from '@tromix/core/text/format';
  import type { Histogram } from '$lib/server/queries/histogram';
  import { classesOf, classFrom, classOf, durationTicks } from './duration-scale';

  interface Mark {
    ns: number;
    text: string;
    colour: string;
    dashed?: boolean;
  }
  /** How often which duration, on a logarithmic axis. */
  let {
    histogram,
    height,
    label,
    colourOf,
    marks
  }: {
    histogram: Histogram;
    height: number;
    label: string;
    /** Colour of a class of durations. */
    colourOf: (at: number) => string;
    marks: Mark[];
  } = $props();
  let width = $state(400);
  const classes = $derived(classesOf([histogram]));
  const bar = $derived(width / classes.count);
  const most = $derived(Math.max(1, ...histogram.map(([, count]) => count)));
  const x = $derived((ns: number) => (classOf(ns) - classes.first) * bar);
</script>

<div bind:clientWidth={width}>
  <svg {width} height={height + 16} class="block" role="img" aria-label={label}>
    {#each durationTicks(classes, Math.floor(width / 80)) as tick (tick)}
      <path d="M{x(tick)} 0V{height}" stroke="var(--grid)" />
      <text x={Math.min(width - 32, x(tick) + 2)} y={height + 12} class="fill-ink-3 font-mono text-[10px]"
        >{formatDuration(tick)}</text
      >
    {/each}
    {#each histogram as [at, count] (at)}
      {@const tall = Math.max(1, (count / most) * (height - 8))}
      <rect
        x={(at - classes.first) * bar + 0.5}
        y={height - tall}
        width={Math.max(1, bar - 1)}
        height={tall}
        fill={colourOf(at)}
        ><title
          >{formatDuration(classFrom(at))} to {formatDuration(classFrom(at + 1))}: {formatCount(count)}</title
        ></rect
      >
    {/each}
    {#each marks as { ns, text, colour, dashed } (text)}
      <path
        d="M{x(ns)} 0V{height}"
        stroke={colour}
        stroke-width="1.3"
        stroke-dasharray={dashed ? '3 3' : undefined}
      />
      <text x={x(ns) + 3} y="9" class="font-mono text-[10px]" fill={colour}>{text}</text>
    {/each}
    <path d="M0 {height}H{width}" stroke="var(--rule)" />
  </svg>
</div>
