<script lang="ts">
  import CountersBelow from '$lib/ui/hosts/CountersBelow.svelte';
  import { goto } from '$app/navigation';
  import { formatCount, formatDuration, plural } from '@tromix/core/text/format';
  import type { EndpointPage } from '$lib/server/queries/endpoint';
  import Chart from '$lib/ui/chart/Chart.svelte';
  import { drag } from '$lib/ui/chart/drag';
  import { placeMarkup, type Place } from '$lib/ui/chart/facts';
  import { barsInMiddles } from '$lib/ui/chart/bins';
  import { withDots, withGaps, type LineDatum } from '$lib/ui/chart/gaps';
  import type { ChartTheme } from '$lib/ui/chart/theme';
  import { axisTime, shortTime, timeRange } from '$lib/ui/kit/time';
  import { viewLink } from '$lib/ui/shell/links';
  import type { WatchOffer } from '$lib/ui/watch/offers.svelte';
  import { classesOf, classFrom, classOf, durationTicks } from './duration-scale';

  let { page, watch = null }: { page: EndpointPage; watch?: WatchOffer | null } = $props();

  const LEFT = 58;
  const RIGHT = 26;
  const HEIGHT = 190;
  const LOAD = 38;
  let width = $state(780);
  const plot = $derived(Math.max(100, width - LEFT - RIGHT));
  const classes = $derived(classesOf(page.heat.map(({ histogram }) => histogram)));
  const rowHeight = $derived(HEIGHT / classes.count);
  const fromMs = $derived(Math.floor(page.window.fromUs / 1000 / page.stepMs) * page.stepMs);
  const bins = $derived(Math.max(1, Math.ceil((page.window.toUs / 1000 - fromMs) / page.stepMs)));
  const binWidth = $derived(plot / bins);
  const most = $derived(
    Math.max(1, ...page.heat.flatMap(({ histogram }) => histogram.map(([, count]) => count)))
  );
  const places = $derived(
    page.heat.map((point): Place => ({
      at: shortTime(point.at),
      facts: [
        { name: 'requests', value: formatCount(point.count) },
        { name: 'median', value: formatDuration(point.p50Ns) },
        { name: 'p95', value: formatDuration(point.p95Ns) }
      ]
    }))
  );

  /** Three grids: cells by class, over them the lines on a scale of their own, below them the load. */
  function option({ of, values, classes: axis, tooltip }: ChartTheme): object {
    const binOf = (at: number): number => Math.round((at - fromMs) / page.stepMs);
    const ticks = durationTicks(classes, 7).map(classOf);
    const upper = { left: LEFT, width: plot, top: 0, height: HEIGHT };
    const lower = { left: LEFT, width: plot, top: HEIGHT + 10, height: LOAD - 10 };
    const hidden = { show: false, min: 0, max: bins };
    const line = (of: (point: (typeof page.heat)[number]) => number): LineDatum[] =>
      withDots(
        withGaps(page.heat, page.stepMs, (point) => classOf(of(point))).map(([at, value]) => [
          binOf(at) + 0.5,
          value
        ])
      );
    const load = barsInMiddles(
      { series: page.heat, binMs: page.stepMs, fromMs, toMs: fromMs + bins * page.stepMs },
      ({ count }) => count
    );
    const pen = { color: of('pen'), width: 1.4 };
    const bound = [
      { ms: page.tMs, name: 'T' },
      { ms: page.tMs * 4, name: '4T' }
    ].filter(
      ({ ms }) => classOf(ms * 1e6) > classes.first && classOf(ms * 1e6) < classes.first + classes.count
    );
    return {
      grid: [upper, upper, lower],
      tooltip: {
        ...tooltip,
        trigger: 'item',
        formatter: ({ seriesIndex, value }: { seriesIndex: number; value: number[] }) => {
          if (seriesIndex !== 0) {
            const place = page.heat.findIndex(({ at }) => binOf(at) === Math.floor(value[0]));
            return place < 0 ? '' : placeMarkup(places[place]);
          }
          const at = classes.first + value[1];
          return placeMarkup({
            at: shortTime(fromMs + value[0] * page.stepMs),
            facts: [
              {
                name: `${formatDuration(classFrom(at))} to ${formatDuration(classFrom(at + 1))}`,
                value: plural(value[2], 'request')
              }
            ]
          });
        }
      },
      visualMap: {
        show: false,
        seriesIndex: 0,
        dimension: 3,
        min: 0,
        max: 1,
        inRange: { color: [of('steer-soft'), of('steer')] }
      },
      xAxis: [
        {
          ...axis,
          gridIndex: 0,
          data: Array.from({ length: bins }, (_, i) => i),
          axisLabel: { show: false }
        },
        { ...hidden, type: 'value', gridIndex: 1 },
        {
          ...values,
          gridIndex: 2,
          min: 0,
          max: bins,
          axisLine: { show: true, lineStyle: { color: of('rule') } },
          splitLine: { show: false },
          axisLabel: {
            ...values.axisLabel,
            formatter: (bin: number) => axisTime(fromMs + bin * page.stepMs, bins * page.stepMs)
          }
        }
      ],
      yAxis: [
        { ...axis, gridIndex: 0, show: false, data: Array.from({ length: classes.count }, (_, i) => i) },
        {
          ...values,
          gridIndex: 1,
          min: classes.first,
          max: classes.first + classes.count,
          axisLabel: {
            ...values.axisLabel,
            customValues: ticks,
            formatter: (at: number) => formatDuration(Math.round(classFrom(at)))
          },
          axisTick: { show: false, customValues: ticks }
        },
        {
          ...values,
          gridIndex: 2,
          splitLine: { show: false },
          name: 'requests',
          nameLocation: 'middle',
          nameRotate: 0,
          nameGap: 8,
          nameTextStyle: { color: of('ink-3'), fontSize: 10, align: 'right' },
          axisLabel: { show: false }
        }
      ],
      series: [
        {
          type: 'heatmap',
          xAxisIndex: 0,
          yAxisIndex: 0,
          itemStyle: { borderColor: of('sheet'), borderWidth: 0.5 },
          // The last number is the tint: roots let the rare be seen beside the frequent.
          data: page.heat.flatMap(({ at, histogram }) =>
            histogram.map(([place, count]) => [
              binOf(at),
              place - classes.first,
              count,
              Math.sqrt(count / most)
            ])
          )
        },
        {
          type: 'line',
          xAxisIndex: 1,
          yAxisIndex: 1,
          symbol: 'none',
          silent: true,
          itemStyle: { color: of('pen') },
          lineStyle: pen,
          data: line(({ p95Ns }) => p95Ns),
          markLine: {
            symbol: 'none',
            silent: true,
            lineStyle: { color: of('alarm'), type: [3, 4] },
            data: bound.map(({ ms, name }) => ({
              yAxis: classOf(ms * 1e6),
              label: { formatter: name, color: of('alarm'), fontSize: 10, distance: 2 }
            }))
          }
        },
        {
          type: 'line',
          xAxisIndex: 1,
          yAxisIndex: 1,
          symbol: 'none',
          silent: true,
          itemStyle: { color: of('pen') },
          lineStyle: { ...pen, type: 'dashed' },
          data: line(({ p50Ns }) => p50Ns)
        },
        {
          type: 'bar',
          xAxisIndex: 2,
          yAxisIndex: 2,
          barWidth: '92%',
          itemStyle: { color: of('ink-3'), opacity: 0.45 },
          data: load.map(([at, count]) => [(at - fromMs) / page.stepMs, count])
        }
      ]
    };
  }

  /** Corners of the selection: bin and row, both counted from the lower left. */
  interface Corner {
    bin: number;
    row: number;
  }
  let anchor = $state<Corner | null>(null);
  let cursor = $state<Corner | null>(null);
  const selected = $derived.by(() => {
    if (!anchor || !cursor) return null;
    const [bin0, bin1] = [anchor.bin, cursor.bin].sort((a, b) => a - b);
    const [row0, row1] = [anchor.row, cursor.row].sort((a, b) => a - b);
    return { bin0, bin1, row0, row1 };
  });
  const inside = $derived.by(() => {
    if (!selected) return 0;
    return page.heat
      .filter(({ at }) => {
        const bin = Math.round((at - fromMs) / page.stepMs);
        return bin >= selected.bin0 && bin <= selected.bin1;
      })
      .flatMap(({ histogram }) => histogram)
      .filter(([at]) => at >= classes.first + selected.row0 && at <= classes.first + selected.row1)
      .reduce((sum, [, count]) => sum + count, 0);
  });
  const bounds = $derived(
    selected && {
      from: fromMs + selected.bin0 * page.stepMs,
      to: fromMs + (selected.bin1 + 1) * page.stepMs,
      slower: classFrom(classes.first + selected.row0) / 1e6,
      faster: classFrom(classes.first + selected.row1 + 1) / 1e6
    }
  );
  const three = (ms: number): number => Number(ms.toFixed(3));
  const link = $derived(
    bounds
      ? viewLink('/requests', {
          service: page.service,
          endpoint: page.endpoint,
          from: bounds.from,
          to: bounds.to,
          slower: three(bounds.slower),
          faster: three(bounds.faster)
        })
      : ''
  );

  function cornerAt(target: Element, { clientX, clientY }: PointerEvent): Corner {
    const box = target.getBoundingClientRect();
    const clamp = (value: number, last: number): number => Math.min(last, Math.max(0, Math.floor(value)));
    return {
      bin: clamp((clientX - box.left - LEFT) / binWidth, bins - 1),
      row: clamp((HEIGHT - (clientY - box.top)) / rowHeight, classes.count - 1)
    };
  }
  function onpointerdown(event: PointerEvent): void {
    if (event.button !== 0) return;
    const target = event.currentTarget as Element;
    anchor = cursor = cornerAt(target, event);
    drag(event, { move: (moved) => (cursor = cornerAt(target, moved)), end: () => undefined });
  }
  function keys(event: KeyboardEvent): void {
    if (event.key === 'Escape') anchor = cursor = null;
    if (event.key === 'Enter' && link) void goto(link);
    const step = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[event.key];
    if (!step) return;
    event.preventDefault();
    const at = cursor ?? { bin: bins - 1, row: Math.floor(classes.count / 2) };
    cursor = {
      bin: Math.min(bins - 1, Math.max(0, at.bin + step[0])),
      row: Math.min(classes.count - 1, Math.max(0, at.row + step[1]))
    };
    if (!event.shiftKey || !anchor) anchor = cursor;
  }
  const words = $derived(
    page.heat.length === 0
      ? 'No requests in this time range.'
      : `${plural(page.count, 'request')} over time by duration, median ${formatDuration(page.p50Ns)}, p95 ${formatDuration(page.p95Ns)}. Arrow keys choose a cell, with Shift a rectangle, Enter lists its requests.`
  );
</script>

<div class="relative" bind:clientWidth={width}>
  <Chart
    {option}
    height={HEIGHT + LOAD + 20}
    label="{plural(page.count, 'request')} over time by duration."
    file="latency-over-time"
    {watch}
    legend={[
      { name: 'p95', colour: 'var(--pen)', line: 'solid' },
      { name: 'median', colour: 'var(--pen)', line: 'dashed' },
      { name: 'requests of a cell, stronger = more', colour: 'var(--steer)' }
    ]}
  />
  <!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
  <svg
    {width}
    height={HEIGHT}
    class="absolute top-0 left-0 block cursor-crosshair touch-none select-none"
    role="application"
    aria-label="Latency over time. {words}"
    tabindex="0"
    {onpointerdown}
    onkeydown={keys}
  >
    {#if selected}
      <rect
        x={LEFT + selected.bin0 * binWidth}
        y={HEIGHT - (selected.row1 + 1) * rowHeight}
        width={(selected.bin1 - selected.bin0 + 1) * binWidth}
        height={(selected.row1 - selected.row0 + 1) * rowHeight}
        fill="var(--pen)"
        fill-opacity="0.14"
        stroke="var(--pen)"
        stroke-width="1.5"
      />
    {/if}
  </svg>
  <p class="flex min-h-[26px] items-baseline gap-3 pl-[58px] text-[12px] text-ink-2">
    {#if bounds}
      <span aria-live="polite"
        >{plural(inside, 'request')} of {formatDuration(bounds.slower * 1e6)} to {formatDuration(
          bounds.faster * 1e6
        )}, {timeRange(bounds.from, bounds.to)}</span
      >
      <a class="button button-solid" href={link}>List {formatCount(inside)} of them</a>
      <button class="button border-rule text-ink-2" onclick={() => (anchor = cursor = null)}>Clear</button>
    {:else}
      <span class="text-ink-3"
        >A cell holds the requests of one {page.resolution} and duration. Drag a rectangle to list its requests.</span
      >
    {/if}
  </p>
  <CountersBelow
    of={page.hosts.map(({ name: host }) => ({ host, pid: 0, service: page.service }))}
    {fromMs}
    toMs={fromMs + bins * page.stepMs}
    left={LEFT}
    right={RIGHT}
  />
</div>
