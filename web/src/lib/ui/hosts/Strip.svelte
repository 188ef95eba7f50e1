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
    /** What it reaches from edge to edge; that of its own bins unless it lies under another picture. Epoch milliseconds. */
    axis?: { fromMs: number; toMs: number };
  }
  let { label, line, text, top, fromMs, stepMs, odd = [], axis }: Props = $props();

  const HEIGHT = 34;
  /** What it is drawn in, stretched to the pixels there are: so nothing is measured, and nothing drawn twice. */
  const WIDTH = 1000;
  const FEW_BINS = 24;
  const SHORT = 5;
  let at = $state(-1);
  /** From the middle of its first bin to that of its last. */
  const reach = $derived(
    axis ?? { fromMs: fromMs + stepMs / 2, toMs: fromMs + (Math.max(2, line.length) - 0.5) * stepMs }
  );
  const xOf = (atMs: number): number =>
    Math.round(((atMs - reach.fromMs) / (reach.toMs - reach.fromMs)) * WIDTH);
  /** The middle of a bin. */
  const x = (bin: number): number => xOf(fromMs + (bin + 0.5) * stepMs);
  /** Few bins over a long stretch: each is drawn as wide as the time it is of. */
  const isCoarse = $derived((reach.toMs - reach.fromMs) / stepMs < FEW_BINS);
  const y = (value: number): string => (HEIGHT - 1 - Math.min(1, value / top) * (HEIGHT - 4)).toFixed(1);
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
  /** The points of a run, of which the first is moved to. A single bin is a short stroke. */
  function points(from: number, to: number): string {
    let path = '';
    for (let bin = from; bin < to; bin++) {
      const begin = fromMs + bin * stepMs;
      const value = y(line[bin]!);
      const word = path === '' ? 'M' : 'L';
      path += isCoarse
        ? `${word}${xOf(begin)} ${value}H${xOf(begin + stepMs)}`
        : `${word}${xOf(begin + stepMs / 2)} ${value}`;
    }
    return to - from === 1 && !isCoarse ? `${path}h${SHORT}` : path;
  }
  const ends = (from: number, to: number): [number, number] => {
    if (isCoarse) return [xOf(fromMs + from * stepMs), xOf(fromMs + to * stepMs)];
    return to - from === 1 ? [x(from), x(from) + SHORT] : [x(from), x(to - 1)];
  };
  /** The line and what is below it in one: the page holds many of these, and each path costs. */
  const outline = $derived(
    runs
      .map(([from, to]) => {
        const [left, right] = ends(from, to);
        return `M${left} ${HEIGHT}${points(from, to).replace('M', 'L')}L${right} ${HEIGHT}`;
      })
      .join('')
  );
  const oddLines = $derived(
    odd.flatMap(({ from, to }) =>
      runs.filter(([a, b]) => b > from && a < to).map(([a, b]) => points(Math.max(a, from), Math.min(b, to)))
    )
  );
  const most = $derived(greatestOf(line));
  const summary = $derived(
    `${label}: ${most === null ? 'nothing told' : `up to ${text(most)}`}${odd.length > 0 ? ', clear of the others' : ''}`
  );
  const told = $derived(
    at < 0 ? '' : `${dateTime(fromMs + at * stepMs)}: ${line[at] === null ? 'not told' : text(line[at]!)}`
  );
  const onpointermove = (event: PointerEvent & { currentTarget: Element }): void => {
    const box = event.currentTarget.getBoundingClientRect();
    const atMs = reach.fromMs + ((event.clientX - box.left) / box.width) * (reach.toMs - reach.fromMs);
    at = Math.max(0, Math.min(line.length - 1, Math.floor((atMs - fromMs) / stepMs)));
  };
</script>

<svg
  class={['block w-full border-b border-rule', axis ? 'overflow-hidden' : 'overflow-visible']}
  height={HEIGHT}
  viewBox="0 0 {WIDTH} {HEIGHT}"
  preserveAspectRatio="none"
  role="img"
  aria-label={summary}
  {onpointermove}
  onpointerleave={() => (at = -1)}
>
  {#if told}<title>{told}</title>{/if}
  <path class="line" d={outline} />
  {#if oddLines.length > 0}<path class="odd" d={oddLines.join('')} />{/if}
  {#if at >= 0}<path class="at" d="M{x(at)} 0V{HEIGHT}" />{/if}
</svg>

<style>
  path {
    fill: none;
    vector-effect: non-scaling-stroke;
  }
  .line {
    fill: var(--steer-soft);
    stroke: var(--steer);
    stroke-width: 1.2;
  }
  .odd {
    stroke: var(--pen);
    stroke-width: 1.8;
  }
  .at {
    stroke: var(--ink-3);
    stroke-dasharray: 2 2;
  }
</style>
