<script lang="ts">
  import { greatestOf } from '@tromix/core/counters/lines';
  import type { Line } from '@tromix/core/counters/strips';
  import { dateTime } from '$lib/ui/kit/time';

  /** One line over time. What is not known is left out, and stretches that stand clear of other rows are drawn in the colour of the pen. */
  interface Props {
    /** What it is of: `CPU of quay-2`. */
    label: string;
    line: Line;
    /** How a value is written. */
    text: (value: number) => string;
    /** Value at the top, the same for all rows that are held against each other. */
    top: number;
    fromMs: number;
    stepMs: number;
    odd?: readonly { from: number; to: number }[];
  }
  let { label, line, text, top, fromMs, stepMs, odd = [] }: Props = $props();

  const HEIGHT = 34;
  let width = $state(120);
  let at = $state(-1);
  const x = (bin: number): number => (line.length > 1 ? (bin / (line.length - 1)) * width : width / 2);
  const y = (value: number): number => HEIGHT - 1 - Math.min(1, value / top) * (HEIGHT - 4);
  /** Runs of bins of which something is known. */
  const runs = $derived.by(() => {
    const found: [number, number][] = [];
    let from = -1;
    for (let bin = 0; bin <= line.length; bin++) {
      const isKnown = bin < line.length && line[bin] !== null;
      if (isKnown && from < 0) from = bin;
      if (!isKnown && from >= 0) {
        found.push([from, bin]);
        from = -1;
      }
    }
    return found;
  });
  const path = (from: number, to: number): string =>
    line
      .slice(from, to)
      .map((value, i) => `${x(from + i).toFixed(1)} ${y(value!).toFixed(1)}`)
      .join('L');
  const area = (from: number, to: number): string =>
    `M${x(from).toFixed(1)} ${HEIGHT}L${path(from, to)}L${x(to - 1).toFixed(1)} ${HEIGHT}Z`;
  /** A single bin is a short stroke. */
  const stroke = (from: number, to: number): string =>
    to - from === 1 ? `M${x(from) - 1} ${y(line[from]!)}h2` : `M${path(from, to)}`;
  const most = $derived(greatestOf(line));
  const summary = $derived(
    `${label}: ${most === null ? 'nothing told' : `up to ${text(most)}`}${odd.length > 0 ? ', clear of the others' : ''}`
  );
  const told = $derived(
    at < 0 ? '' : `${dateTime(fromMs + at * stepMs)}: ${line[at] === null ? 'not told' : text(line[at]!)}`
  );
  const onpointermove = (event: PointerEvent & { currentTarget: Element }): void => {
    const box = event.currentTarget.getBoundingClientRect();
    at = Math.max(
      0,
      Math.min(line.length - 1, Math.round(((event.clientX - box.left) / box.width) * (line.length - 1)))
    );
  };
</script>

<div class="relative" bind:clientWidth={width} title={told}>
  <svg
    class="block w-full overflow-visible"
    height={HEIGHT}
    role="img"
    aria-label={summary}
    {onpointermove}
    onpointerleave={() => (at = -1)}
  >
    <line x1="0" x2={width} y1={HEIGHT} y2={HEIGHT} stroke="var(--rule)" />
    {#each runs as [from, to] (from)}
      <path d={area(from, to)} fill="var(--steer-soft)" />
      <path d={stroke(from, to)} fill="none" stroke="var(--steer)" stroke-width="1.2" />
    {/each}
    {#each odd as { from, to } (from)}
      {#each runs.filter(([a, b]) => b > from && a < to) as [a, b] (a)}
        <path
          d={stroke(Math.max(a, from), Math.min(b, to))}
          fill="none"
          stroke="var(--pen)"
          stroke-width="1.8"
        />
      {/each}
    {/each}
    {#if at >= 0}<line
        x1={x(at)}
        x2={x(at)}
        y1="0"
        y2={HEIGHT}
        stroke="var(--ink-3)"
        stroke-dasharray="2 2"
      />{/if}
  </svg>
</div>
