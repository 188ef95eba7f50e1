<script lang="ts">
  import GripIcon from '@lucide/svelte/icons/grip-vertical';
  import { dragHandle } from 'svelte-dnd-action';
  import type { BoardChart } from '@tromix/core/watch/board';
  import { figureOf } from '@tromix/core/watch/figures';
  import { figureKey } from '@tromix/core/watch/watched';
  import { watchedWords } from '@tromix/core/watch/words';
  import type { FigureSeries } from '$lib/server/watch/series';
  import type { Action } from '$lib/ui/kit/actions';
  import { viewOfWatched } from '$lib/watched-place';
  import { toCsv } from '@tromix/core/text/csv';
  import { saveText } from '$lib/ui/kit/save-text';
  import { offersWatch, watchActions } from './offers.svelte';
  import FigureChart from './FigureChart.svelte';
  import type { BoardWatch } from './board-watches';
  import { chartTitle, bandsOf } from './board-watches';
  import { limitMarks } from './limit-marks';

  /** A chart of a board: its figures over the board's time, with the limits of the watches on them. */
  interface Props {
    chart: BoardChart;
    /** In the order of its figures; null until they are read. */
    series: readonly FigureSeries[] | null;
    fromMs: number;
    stepMs: number;
    toMs: number;
    watches: readonly BoardWatch[];
    height: number;
    onmenu: (event: MouseEvent, actions: Action[]) => void;
    onup: (() => void) | null;
    ondown: (() => void) | null;
    onremove: () => void;
    onwide: () => void;
    onrename: (title: string) => void;
  }
  let {
    chart,
    series,
    fromMs,
    stepMs,
    toMs,
    watches,
    height,
    onmenu,
    onup,
    ondown,
    onremove,
    onwide,
    onrename
  }: Props = $props();

  const [first] = $derived(chart.figures);
  const figure = $derived(figureOf(first));
  const own = $derived(
    watches.filter(({ condition }) =>
      chart.figures.some((one) => figureKey(one) === figureKey(condition.watched))
    )
  );
  const window = $derived({ from: fromMs, to: toMs });
  const csv = (): string =>
    toCsv(
      ['at', ...chart.figures.map(watchedWords)],
      (series?.[0]?.values ?? []).map((_, i) => [
        new Date(fromMs + i * stepMs).toISOString(),
        ...(series ?? []).map(({ values }) => values[i] ?? '')
      ])
    );
  const actions = $derived<Action[]>([
    ...watchActions({ watched: first }),
    { name: 'Figures, CSV', run: () => saveText('board.csv', csv()) },
    { name: 'Open in its view', href: viewOfWatched(first, window) },
    ...own.map(({ id, name }) => ({ name: `Open the watch ${name}`, href: `/watches/${id}` })),
    { name: chart.wide ? 'Half the width' : 'The whole width', run: onwide },
    ...(onup ? [{ name: 'Move it up', run: onup }] : []),
    ...(ondown ? [{ name: 'Move it down', run: ondown }] : []),
    { name: 'Take it off the board', run: onremove }
  ]);
  /** What a chart takes with its line of looks and exports. */
  const LINE_BELOW = 19.4;
  const whole = $derived(series?.[0]?.whole ?? null);
</script>

<li
  class="min-w-0 rounded-[3px] border border-rule bg-sheet {chart.wide ? 'col-span-2' : ''}"
  aria-label={chartTitle(chart)}
  use:offersWatch={() => ({ watched: first })}
>
  <div class="flex items-center gap-1.5 px-2 pt-1.5">
    <span
      class="cursor-grab text-ink-3 hover:text-ink"
      use:dragHandle
      aria-label="Drag to another place: {chartTitle(chart)}"><GripIcon size={13} /></span
    >
    <input
      class="min-w-0 flex-1 truncate rounded-[3px] border border-transparent bg-transparent px-1 text-[13px] font-semibold hover:border-rule focus:border-steer"
      aria-label="Title of the chart"
      maxlength="200"
      placeholder={watchedWords(first)}
      value={chart.title}
      onchange={({ currentTarget }) => onrename(currentTarget.value)}
    />
    <span class="min-w-[9ch] text-right num text-ink-2" title="Over the whole time on the axis"
      >{whole === null ? '–' : figure.text(whole)}</span
    >
    <button
      class="button px-1.5 py-0"
      aria-label="More about {chartTitle(chart)}"
      aria-haspopup="menu"
      onclick={(event) => onmenu(event, actions)}>…</button
    >
  </div>
  {#if series === null}
    <div class="grid place-items-center text-ink-3" style:height="{height + LINE_BELOW}px" role="status">
      Reading…
    </div>
  {:else if series.every(({ values }) => values.every((value) => value === null))}
    <div class="grid place-items-center text-ink-3" style:height="{height + LINE_BELOW}px">
      No values in this time range: nothing, or too little, tells of it.
    </div>
  {:else}
    <FigureChart
      lines={chart.figures.map((one, i) => ({ title: watchedWords(one), values: series[i]?.values ?? [] }))}
      text={figure.text}
      {fromMs}
      {stepMs}
      {toMs}
      limits={own.flatMap(({ condition }) => limitMarks(condition))}
      bands={bandsOf(own, toMs)}
      {height}
      narrows
      label="{chartTitle(chart)} over time{own.length > 0 ? ', with the limits of its watches' : ''}."
    />
  {/if}
</li>
