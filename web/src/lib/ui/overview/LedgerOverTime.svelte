<script lang="ts">
  import type { EChartsType } from 'echarts/core';
  import { ACCOUNTS, type Account, type Ledger } from '@tromix/core/trace/account';
  import { formatDuration } from '@tromix/core/text/format';
  import { LOOKS } from '$lib/ui/ledger/accounts';
  import { preferences } from '$lib/ui/shell/preferences.svelte';
  import { axisTime, shortTime, timeRange } from '$lib/ui/kit/time';

  interface Point {
    at: number;
    ledger: Ledger;
    p50Ns: number;
    p95Ns: number;
  }
  let {
    series,
    flag = null,
    height = 158
  }: { series: Point[]; flag?: { at: number; label: string } | null; height?: number } = $props();

  let element: HTMLDivElement;
  let chart: EChartsType | undefined;
  /** Where the flag's line stands, pixels from the left. */
  let flagAt = $state(NaN);
  const accounts = $derived(ACCOUNTS.filter((account) => series.some(({ ledger }) => ledger[account] > 0)));
  const words = $derived(
    series.length === 0
      ? 'No requests in this window.'
      : `Time per request by account from ${timeRange(series[0].at, series.at(-1)!.at)}; at the end ${accounts.map((account) => `${LOOKS[account].name} ${formatDuration(series.at(-1)!.ledger[account])}`).join(', ')}.`
  );

  /** SVG needs a plain colour: the tokens are read where the theme has set them. */
  function colour(value: string): string {
    const name = /var\((--[\w-]+)\)/.exec(value)?.[1];
    return name ? getComputedStyle(document.documentElement).getPropertyValue(name).trim() : value;
  }

  function draw(): void {
    const ink3 = colour('var(--ink-3)');
    const length = series.length > 0 ? series.at(-1)!.at - series[0].at : 0;
    const line = (account: Account, i: number): object => ({
      name: LOOKS[account].name,
      type: 'line',
      stack: 'ledger',
      symbol: 'none',
      lineStyle: { width: 0 },
      areaStyle: { color: colour(LOOKS[account].flat), opacity: 0.9 },
      data: series.map(({ at, ledger }) => [at, ledger[account] / 1e6]),
      markLine:
        i === 0 && flag
          ? {
              symbol: 'none',
              silent: true,
              lineStyle: { color: colour('var(--ink-2)'), type: 'solid' },
              label: { show: false },
              data: [{ xAxis: flag.at }]
            }
          : undefined
    });
    chart?.setOption(
      {
        animation: false,
        grid: { left: 52, right: 12, top: 12, bottom: 22 },
        tooltip: {
          trigger: 'axis',
          backgroundColor: colour('var(--sheet)'),
          borderColor: colour('var(--rule)'),
          textStyle: { color: colour('var(--ink)'), fontSize: 12, fontFamily: 'Instrument Sans Variable' },
          axisPointer: { lineStyle: { color: colour('var(--pen)') } },
          formatter: (items: { dataIndex: number }[]) => {
            const point = series[items[0].dataIndex];
            const rows = accounts.map(
              (account) =>
                `<tr><td>${LOOKS[account].letter} ${LOOKS[account].name}</td><td style="text-align:right;padding-left:14px;font-family:Source Code Pro Variable">${formatDuration(point.ledger[account])}</td></tr>`
            );
            return `${shortTime(point.at)}<table>${rows.reverse().join('')}<tr><td>median</td><td style="text-align:right">${formatDuration(point.p50Ns)}</td></tr><tr><td>p95</td><td style="text-align:right">${formatDuration(point.p95Ns)}</td></tr></table>`;
          }
        },
        xAxis: {
          type: 'time',
          axisLine: { lineStyle: { color: colour('var(--rule)') } },
          axisTick: { show: false },
          axisLabel: {
            color: ink3,
            fontSize: 11,
            fontFamily: 'Source Code Pro Variable',
            hideOverlap: true,
            formatter: (at: number) => axisTime(at, length)
          },
          splitLine: { show: true, lineStyle: { color: colour('var(--grid)') } }
        },
        yAxis: {
          type: 'value',
          splitNumber: 3,
          axisLabel: {
            color: ink3,
            fontSize: 11,
            fontFamily: 'Source Code Pro Variable',
            formatter: (ms: number) => formatDuration(ms * 1e6)
          },
          splitLine: { lineStyle: { color: colour('var(--grid)') } }
        },
        series: accounts.map(line)
      },
      { notMerge: true }
    );
    placeFlag();
  }

  function placeFlag(): void {
    flagAt = chart && flag ? Number(chart.convertToPixel({ xAxisIndex: 0 }, flag.at)) : NaN;
  }

  $effect(() => {
    let alive = true;
    const observer = new ResizeObserver(() => {
      chart?.resize();
      placeFlag();
    });
    void import('$lib/ui/chart/echarts').then(({ init }) => {
      if (!alive) return;
      chart = init(element, undefined, { renderer: 'svg' });
      observer.observe(element);
      draw();
    });
    return () => {
      alive = false;
      observer.disconnect();
      chart?.dispose();
      chart = undefined;
    };
  });

  $effect(() => {
    void [series, flag, preferences.theme];
    if (chart) draw();
  });
</script>

<div class="relative">
  <div bind:this={element} style:height="{height}px" role="img" aria-label={words}></div>
  {#if flag && Number.isFinite(flagAt)}
    <span
      class="pointer-events-none absolute top-[12px] bg-ink-2 py-px pr-2.5 pl-1 font-mono text-[10px] text-paper [clip-path:polygon(0_0,100%_0,calc(100%-5px)_50%,100%_100%,0_100%)]"
      style:left="{flagAt}px">{flag.label}</span
    >
  {/if}
</div>
