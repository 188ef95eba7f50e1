<script lang="ts">
  import { formatDuration, plural } from '@tromix/core/text/format';
  import type { SplitRow } from '$lib/server/queries/endpoint';
  import Chart from '$lib/ui/chart/Chart.svelte';
  import type { ChartTheme } from '$lib/ui/chart/theme';
  import { changeLook, TONES } from '$lib/ui/kit/change';
  import { classesOf } from './duration-scale';

  /** One small distribution for each host or release, all on the same axis, so that the odd one is seen at once. */
  interface Props {
    title: string;
    rows: SplitRow[];
    hrefOf: (name: string) => string;
  }
  let { title, rows, hrefOf }: Props = $props();
  const WIDTH = 148;
  const ROW = 31;
  const MOST = 24;
  const shown = $derived(rows.slice(0, MOST));
  const classes = $derived(classesOf(rows.map(({ histogram }) => histogram)));
  const largestShare = $derived(
    Math.max(...rows.flatMap(({ histogram, count }) => histogram.map(([, part]) => part / count)))
  );
  const looks = $derived(shown.map(({ change }) => changeLook(change, 'that of the others together')));

  /** One picture with a grid for each row. */
  const option = ({ of }: ChartTheme): object => ({
    grid: shown.map((_, i) => ({ left: 0, width: WIDTH, top: i * ROW + 3, height: ROW - 6 })),
    xAxis: shown.map((_, i) => ({
      type: 'value',
      gridIndex: i,
      show: false,
      min: classes.first,
      max: classes.first + classes.count
    })),
    yAxis: shown.map((_, i) => ({
      type: 'value',
      gridIndex: i,
      show: false,
      min: 0,
      max: largestShare
    })),
    series: shown.map(({ histogram, count }, i) => ({
      type: 'bar',
      xAxisIndex: i,
      yAxisIndex: i,
      silent: true,
      barWidth: Math.max(1, WIDTH / classes.count - 0.5),
      barMinHeight: 1,
      itemStyle: { color: of(looks[i].tone === 'worse' ? 'pen' : 'steer') },
      data: histogram.map(([at, part]) => [at + 0.5, part / count])
    }))
  });
</script>

<h3 class="mb-1 heading">{title}, slowest median first, on one axis</h3>
<div class="relative">
  <ul>
    {#each shown as row, i (row.name)}
      <li>
        <a
          href={hrefOf(row.name)}
          class="grid grid-cols-[minmax(0,1fr)_148px_52px_52px_56px] items-end gap-1.5 border-b border-grid pb-1 hover:bg-pen-soft"
          style:height="{ROW}px"
          title="{plural(row.count, 'request')}. Against the others: {looks[i].words}"
        >
          <span class="truncate">{row.name}</span>
          <span></span>
          <span class="text-right num">{formatDuration(row.p50Ns)}</span>
          <span class="text-right num text-ink-2">{formatDuration(row.p95Ns)}</span>
          <span class="text-right num whitespace-nowrap {TONES[looks[i].tone]}"
            >{rows.length > 1 ? looks[i].text : ''}<span class="sr-only">{looks[i].words}</span></span
          >
        </a>
      </li>
    {/each}
  </ul>
  {#if shown.length > 0}
    <!-- Over the empty column of the rows: 52, 52 and 56 wide, and gaps of 6, stand to its right. -->
    <div class="pointer-events-none absolute top-0 right-[178px]" style:width="{WIDTH}px" aria-hidden="true">
      <Chart {option} height={shown.length * ROW} label="Distributions of {title.toLowerCase()}." />
    </div>
  {/if}
</div>
{#if rows.length > MOST}<p class="text-[11px] text-ink-3">{rows.length - MOST} more are not drawn.</p>{/if}
