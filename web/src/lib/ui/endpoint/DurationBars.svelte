<script lang="ts">
  import type { EChartsType } from 'echarts/core';
  import { formatCount, formatDuration } from '@tromix/core/text/format';
  import type { Histogram } from '$lib/server/queries/histogram';
  import Chart from '$lib/ui/chart/Chart.svelte';
  import { placeMarkup, type Place } from '$lib/ui/chart/facts';
  import { plainColour, type ChartTheme } from '$lib/ui/chart/theme';
  import { classesOf, classFrom, classOf, durationTicks } from './duration-scale';

  interface Mark {
    ns: number;
    text: string;
    colour: string;
    dashed?: boolean;
  }
  /** How often which duration, on a logarithmic axis. */
  interface Props {
    histogram: Histogram;
    height: number;
    label: string;
    /** Colour of a class of durations. */
    colourOf: (at: number) => string;
    marks: Mark[];
    file?: string;
  }
  let { histogram, height, label, colourOf, marks, file = '' }: Props = $props();
  let chartWidth = $state(400);
  const classes = $derived(classesOf([histogram]));
  const places = $derived(
    histogram.map(([at, count]): Place => ({
      at: `${formatDuration(classFrom(at))} to ${formatDuration(classFrom(at + 1))}`,
      facts: [{ name: 'count', value: formatCount(count) }]
    }))
  );

  function option({ of, values, tooltip }: ChartTheme): object {
    const ticks = durationTicks(classes, Math.max(2, Math.floor(chartWidth / 80)));
    return {
      grid: { left: 6, right: 34, top: 12, bottom: 18 },
      tooltip: {
        ...tooltip,
        trigger: 'item',
        formatter: ({ dataIndex }: { dataIndex: number }) => placeMarkup(places[dataIndex])
      },
      // Classes have equal ratios: their numbers are the logarithm of the duration.
      xAxis: {
        ...values,
        min: classes.first,
        max: classes.first + classes.count,
        axisLine: { show: true, lineStyle: { color: of('rule') } },
        axisLabel: {
          ...values.axisLabel,
          customValues: ticks.map(classOf),
          formatter: (at: number) => formatDuration(Math.round(classFrom(at)))
        },
        axisTick: { show: false, customValues: ticks.map(classOf) },
        splitLine: { show: true, lineStyle: { color: of('grid') } }
      },
      yAxis: { ...values, splitNumber: 2, minInterval: 1, axisLabel: { show: false } },
      series: [
        {
          type: 'bar',
          barWidth: Math.max(1, (chartWidth - 40) / classes.count - 1),
          barMinHeight: 1,
          data: histogram.map(([at, count]) => ({
            value: [at + 0.5, count],
            itemStyle: { color: plainColour(colourOf(at)) }
          })),
          markLine: {
            symbol: 'none',
            silent: true,
            data: marks.map(({ ns, text, colour, dashed }) => ({
              xAxis: classOf(ns),
              lineStyle: { color: plainColour(colour), width: 1.3, type: dashed ? 'dashed' : 'solid' },
              label: { show: true, formatter: text, color: plainColour(colour), fontSize: 10 }
            }))
          }
        }
      ]
    };
  }
  const measure = (chart: EChartsType): void => void (chartWidth = chart.getWidth());
</script>

<Chart {option} height={height + 18} label="{label}." {places} {file} ondrawn={measure} />
