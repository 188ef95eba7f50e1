<script lang="ts">
  import { wayGraph, type WayNode } from '@tromix/core/failures/way-graph';
  import { formatCount, plural } from '@tromix/core/text/format';
  import type { FailureWay } from '$lib/server/queries/failure';

  /** The ways a failure takes, from where it starts, past the services that pass it on, to where people see it. */
  let { ways }: { ways: readonly FailureWay[] } = $props();
  const graph = $derived(wayGraph(ways));
  let width = $state(780);
  const BOX = { height: 46, gap: 12 };
  const HEAD = 22;
  /** Longer ways are scrolled. */
  const LEAST = 150;
  const boxWidth = $derived(Math.max(LEAST, Math.min(220, (width - 32) / (graph.columns * 1.45))));
  const full = $derived(Math.max(width, graph.columns * LEAST * 1.3));
  const step = $derived(graph.columns > 1 ? (full - 32 - boxWidth) / (graph.columns - 1) : 0);
  const height = $derived(HEAD + graph.rows * (BOX.height + BOX.gap) + 16);
  const x = ({ column }: WayNode): number => 16 + column * step;
  const y = ({ row }: WayNode): number => HEAD + row * (BOX.height + BOX.gap);
  const most = $derived(Math.max(1, ...graph.edges.map(({ times }) => times)));
  const cut = (text: string, letters: number): string =>
    text.length > letters ? `${text.slice(0, letters - 1)}…` : text;
  const letters = $derived(Math.floor((boxWidth - 20) / 7));
  const pathOf = (from: WayNode, to: WayNode): string => {
    const [x1, y1, x2, y2] = [x(from) + boxWidth, y(from) + BOX.height / 2, x(to), y(to) + BOX.height / 2];
    // What passes no station on its way goes below those it leaves out.
    const dip = to.column - from.column > 1 ? height - 10 : (y1 + y2) / 2;
    const middle = (x1 + x2) / 2;
    return to.column - from.column > 1
      ? `M${x1} ${y1}C${x1 + 40} ${y1} ${x1 + 20} ${dip} ${x1 + 60} ${dip}H${x2 - 60}C${x2 - 20} ${dip} ${x2 - 40} ${y2} ${x2} ${y2}`
      : `M${x1} ${y1}C${middle} ${y1} ${middle} ${y2} ${x2} ${y2}`;
  };
  const label = $derived(
    graph.nodes
      .map(
        ({ service, label: said, times, column }) =>
          `${column === 0 ? 'Starts in' : column === graph.columns - 1 ? 'ends in' : 'passes'} ${service} as ${said}, ${plural(times, 'time')}`
      )
      .join('; ')
  );
</script>

<div class="overflow-x-auto" bind:clientWidth={width}>
  <svg width={full} {height} role="img" aria-label={label} class="block font-mono text-[12px]">
    <g class="font-sans text-[11px]" fill="var(--ink-3)">
      <text x="16" y="14">Starts here</text>
      {#if graph.columns > 2}<text x={16 + step} y="14">passes here</text>{/if}
      {#if graph.columns > 1}<text x={16 + step * (graph.columns - 1)} y="14">ends here</text>{/if}
    </g>
    {#each graph.edges as { from, to, times } (`${from} ${to}`)}
      {@const [a, b] = [graph.nodes[from], graph.nodes[to]]}
      {@const straight = b.column - a.column > 1}
      <path
        d={pathOf(a, b)}
        fill="none"
        stroke="var(--alarm)"
        stroke-width={1 + (times / most) * 3}
        stroke-dasharray={straight ? '4 3' : undefined}><title>{plural(times, 'time')}</title></path
      >
      {#if straight}<text
          x={(x(a) + boxWidth + x(b)) / 2}
          y={height - 14}
          text-anchor="middle"
          fill="var(--ink-2)"
          class="text-[11px]">{formatCount(times)} go straight on</text
        >{/if}
    {/each}
    {#each graph.nodes as node, i (i)}
      {@const start = node.column === 0}
      <g transform="translate({x(node)} {y(node)})">
        <title
          >{node.service}: {node.label}, {plural(node.times, 'time')}{node.caught > 0
            ? `, ${formatCount(node.caught)} of them caught here or seen by nobody`
            : ''}</title
        >
        <rect
          width={boxWidth}
          height={BOX.height}
          rx="3"
          fill={start ? 'var(--alarm)' : 'var(--paper)'}
          stroke={start ? 'var(--alarm)' : 'var(--rule)'}
        />
        <g fill={start ? 'var(--paper)' : 'var(--ink)'}>
          <text x="10" y="18" font-weight="600">{cut(node.service, letters - 6)}</text>
          <text x={boxWidth - 10} y="18" text-anchor="end">{formatCount(node.times)}</text>
          <text x="10" y="36">{cut(node.label, letters)}</text>
        </g>
      </g>
    {/each}
  </svg>
</div>
