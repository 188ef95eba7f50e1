<script lang="ts">
  import { greatestOf } from '@tromix/core/counters/lines';
  import { formatDuration } from '@tromix/core/text/format';
  import { overBins } from '$lib/ui/chart/bins';
  import Chart from '$lib/ui/chart/Chart.svelte';
  import { durationAxis } from '$lib/ui/chart/duration-axis';
  import type { Place } from '$lib/ui/chart/facts';
  import { withDots } from '$lib/ui/chart/gaps';
  import type { ChartTheme } from '$lib/ui/chart/theme';
  import { shortTime } from '$lib/ui/kit/time';
  import type { LimitMark } from './limit-marks';
  import { LINE_LOOKS } from './line-looks';
  import type { WatchOffer } from './offers.svelte';

  interface Line {
    title: string;
    values: readonly (number | null)[];
  }
  /** Figures of one unit over time, with the limits of their watches and when those were on. */
  interface Props {
    lines: readonly Line[];
    text: (value: number) => string;
    fromMs: number;
    stepMs: number;
    toMs: number;
    limits?: readonly LimitMark[];
    /** Stretches in which a watch was on, epoch milliseconds. */
    bands?: readonly { from: number; to: number; name: string }[];
    height?: number;
    label: string;
    file?: string;
    watch?: WatchOffer | null;
    /** Its time is that of the scope. */
    narrows?: boolean;
  }
  let {
    lines,
    text,
    fromMs,
    stepMs,
    toMs,
    limits = [],
    bands = [],
    height = 120,
    label,
    file = '',
    watch = null,
    narrows = false
  }: Props = $props();

  const points = $derived(
    Array.from({ length: lines[0]?.values.length ?? 0 }, (_, i) => ({ at: fromMs + i * stepMs }))
  );
  const places = $derived(
    points.map(({ at }, i): Place => ({
      at: shortTime(at),
      x: at + stepMs / 2,
      facts: lines.map(({ title, values }) => ({
        name: title,
        value: values[i] === null || values[i] === undefined ? 'no value' : text(values[i])
      }))
    }))
  );
  const greatest = $derived(Math.max(0, ...lines.map(({ values }) => greatestOf([...values]) ?? 0)));
  /** Limits are in sight, unless everything is far below them. */
  const top = $derived.by(() => {
    const near = limits.map(({ value }) => value).filter((value) => greatest === 0 || value <= greatest * 4);
    return Math.max(greatest, ...near) * 1.12 || 1;
  });

  function option(theme: ChartTheme): object {
    const { of, values: axis } = theme;
    return {
      grid: { left: 58, right: 14, top: 10, bottom: 20 },
      ...overBins({ series: points, binMs: stepMs, fromMs, toMs }, places, theme),
      yAxis: {
        ...axis,
        min: 0,
        max: top,
        splitNumber: 3,
        // What is written as a duration is in nanoseconds.
        ...(text === formatDuration ? durationAxis(top, 1, 3) : {}),
        axisLabel: {
          ...axis.axisLabel,
          formatter: (value: number) => (value === top ? '' : value === 0 ? '0' : text(value))
        }
      },
      series: lines.map(({ title, values }, i) => {
        const look = LINE_LOOKS[i % LINE_LOOKS.length];
        return {
          type: 'line',
          name: title,
          symbol: 'none',
          itemStyle: { color: of(look.token) },
          lineStyle: { width: 1.5, color: of(look.token), type: look.dash },
          connectNulls: false,
          data: withDots(values.map((value, at) => [points[at].at + stepMs / 2, value])),
          ...(i === 0 ? { markLine: limitLines(of), markArea: bandAreas(of) } : {})
        };
      })
    };
  }
  const limitLines = (of: ChartTheme['of']): object => ({
    silent: true,
    symbol: 'none',
    animation: false,
    data: limits.map(({ value, name, isOn }) => ({
      yAxis: value,
      label: {
        formatter: name,
        position: isOn ? 'insideEndTop' : 'insideEndBottom',
        color: of(isOn ? 'alarm' : 'ink-3'),
        fontSize: 10
      },
      lineStyle: { color: of(isOn ? 'alarm' : 'ink-3'), type: isOn ? 'solid' : 'dashed', width: 1 }
    }))
  });
  const bandAreas = (of: ChartTheme['of']): object => ({
    silent: true,
    itemStyle: { color: of('alarm'), opacity: 0.13 },
    data: bands.map(({ from, to }) => [
      { xAxis: Math.max(from, fromMs) },
      { xAxis: Math.min(Math.max(to, from + stepMs / 4), toMs) }
    ])
  });
  const legend = $derived([
    ...(lines.length > 1
      ? lines.map(({ title }, i) => {
          const { token, dash } = LINE_LOOKS[i % LINE_LOOKS.length];
          return {
            name: title,
            colour: `var(--${token})`,
            line: dash === 'solid' ? ('solid' as const) : ('dashed' as const)
          };
        })
      : []),
    ...(bands.length > 0
      ? [{ name: 'on', colour: 'color-mix(in oklab, var(--alarm) 18%, var(--sheet))' }]
      : [])
  ]);
</script>

<Chart {option} {height} {label} {places} {legend} {file} {watch} {narrows} />
