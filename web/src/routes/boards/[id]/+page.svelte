<script lang="ts">
  import { goto, invalidate } from '$app/navigation';
  import { dragHandleZone } from 'svelte-dnd-action';
  import { toast } from 'svelte-sonner';
  import { figureKey } from '@tromix/core/watch/watched';
  import { plural } from '@tromix/core/text/format';
  import type { BoardChart } from '@tromix/core/watch/board';
  import type { FiguresOverTime } from '$lib/server/watch/series';
  import { screenKeys } from '$lib/ui/frame/keys.svelte';
  import { resource } from '$lib/ui/frame/resource.svelte';
  import { send, sendAndSay } from '$lib/ui/frame/send';
  import ActionMenu from '$lib/ui/kit/ActionMenu.svelte';
  import Confirm from '$lib/ui/kit/Confirm.svelte';
  import Empty from '$lib/ui/kit/Empty.svelte';
  import ScrollRegion from '$lib/ui/kit/ScrollRegion.svelte';
  import { timeRange } from '$lib/ui/kit/time';
  import Page from '$lib/ui/shell/Page.svelte';
  import ScopeLine from '$lib/ui/shell/ScopeLine.svelte';
  import BoardChartCard from '$lib/ui/watch/BoardChartCard.svelte';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();
  const board = $derived(data.board);
  /** The charts as they lie while one is dragged. */
  let charts = $derived(board.charts);
  let removing = $state('');
  let menu = $state<ReturnType<typeof ActionMenu> | null>(null);
  let whole = $state<HTMLElement | null>(null);
  let isWhole = $state(false);

  const fromMs = $derived(Math.floor(data.window.fromUs / 1000));
  const toMs = $derived(Math.ceil(data.window.toUs / 1000));
  /** Figures asked for at once. */
  const AT_ONCE = 40;
  const drawn = resource(
    () =>
      board.charts.length === 0
        ? null
        : JSON.stringify({ figures: board.charts.flatMap(({ figures }) => figures), fromMs, toMs }),
    async (question, signal): Promise<FiguresOverTime> => {
      const { figures, ...window } = JSON.parse(question) as { figures: unknown[] };
      const parts = await Promise.all(
        Array.from({ length: Math.ceil(figures.length / AT_ONCE) }, (_, i) =>
          send<FiguresOverTime>(
            'POST',
            '/api/boards/series',
            { figures: figures.slice(i * AT_ONCE, (i + 1) * AT_ONCE), ...window },
            signal
          )
        )
      );
      return { ...parts[0], series: parts.flatMap(({ series }) => series) };
    },
    { keep: true }
  );
  /** Where the figures of each chart begin among all, by the chart's id. */
  const begins = $derived.by(() => {
    let at = 0;
    return new Map(
      board.charts.map(({ id, figures }) => {
        const begin = at;
        at += figures.length;
        return [id, begin];
      })
    );
  });
  const seriesOf = ({ id, figures }: BoardChart): FiguresOverTime['series'] | null => {
    const begin = begins.get(id);
    if (!drawn.value || begin === undefined) return null;
    const own = drawn.value.series.slice(begin, begin + figures.length);
    return own.length === figures.length ? own : null;
  };

  async function store(next: readonly BoardChart[], name = board.name): Promise<void> {
    charts = [...next];
    try {
      await send('PUT', `/api/boards/${board.id}`, { version: board.version, name, charts: next });
    } catch (cause) {
      toast.error((cause as Error).message);
    }
    await invalidate('tromix:boards');
  }
  const change = (id: string, changed: Partial<BoardChart>): void =>
    void store(board.charts.map((chart) => (chart.id === id ? { ...chart, ...changed } : chart)));
  function move(from: number, to: number): void {
    const next = [...board.charts];
    next.splice(to, 0, ...next.splice(from, 1));
    void store(next);
  }
  async function remove(): Promise<void> {
    if (await sendAndSay('DELETE', `/api/boards/${board.id}`, undefined, 'The board was removed.'))
      await goto('/boards');
  }
  async function toggleWhole(): Promise<void> {
    if (document.fullscreenElement) await document.exitFullscreen();
    else await whole?.requestFullscreen().catch(() => toast.error('The browser does not allow it.'));
  }
  screenKeys([{ keys: 'z', does: 'the whole screen, and back', run: () => void toggleWhole() }]);
  const on = $derived(
    data.watches.filter(
      ({ condition, firings }) =>
        firings.some(({ offMinute }) => offMinute === null) &&
        board.charts.some(({ figures }) =>
          figures.some((one) => figureKey(one) === figureKey(condition.watched))
        )
    )
  );
  const HEIGHT = $derived(isWhole ? 190 : 130);
</script>

<Page>
  {#snippet scope()}<span>Board <b class="font-semibold text-ink">{board.name}</b>,</span>
    <ScopeLine which={['time']} window={data.window} lead="" />{/snippet}
  {#snippet reading()}
    <p class="mb-2">
      {plural(board.charts.length, 'chart')} on one time axis, {timeRange(fromMs, toMs, data.nowMs)}. Drag on
      the time rail to look at a part of it.
    </p>
    {#if on.length > 0}<p class="mb-2">
        On now: {#each on as { id, name }, i (id)}{i > 0 ? ', ' : ''}<a class="underline" href="/watches/{id}"
            >{name}</a
          >{/each}.
      </p>{/if}
    <p class="mb-2 text-ink-2">
      A point is taken over its own bin of the axis, and one of few requests jumps; a watch judges over its
      own minutes. Figures under conditions on attributes count the requests that are kept, all others count
      everything.
    </p>
    <p class="mt-3 flex flex-wrap gap-1.5">
      <button class="button button-solid" onclick={() => void toggleWhole()}>Whole screen</button>
      <a class="button" href="/api/boards/{board.id}" download>Save as a file</a>
      <button
        class="button"
        onclick={() => (removing = 'Its charts go with it; what they show and the watches stay.')}
        >Remove the board</button
      >
    </p>
  {/snippet}
  <header class="flex items-center gap-3 border-b border-rule px-4 py-2">
    <input
      class="min-w-40 flex-1 rounded-[3px] border border-transparent bg-transparent px-1 text-[16px] font-semibold hover:border-rule focus:border-steer"
      aria-label="Name of the board"
      maxlength="120"
      required
      value={board.name}
      onchange={({ currentTarget }) =>
        currentTarget.value.trim()
          ? void store(board.charts, currentTarget.value)
          : (currentTarget.value = board.name)}
    />
    {#if drawn.error}<span class="text-alarm" role="alert">{drawn.error}</span>{/if}
  </header>
  <div
    class="flex min-h-0 flex-1 flex-col bg-paper"
    bind:this={whole}
    onfullscreenchange={() => (isWhole = document.fullscreenElement !== null)}
  >
    <h1 class={isWhole ? 'px-4 pt-3 text-[17px] font-semibold' : 'sr-only'}>{board.name}</h1>
    {#if board.charts.length === 0}
      <Empty title="Nothing on this board yet"
        ><p>
          On any view, choose <b class="font-[620]">Watch</b> beside a chart, or “…” on a row, then “Put it on a
          board”.
        </p></Empty
      >
    {:else}
      <ScrollRegion label="Board">
        <ol
          class="grid grid-cols-2 gap-3 p-3"
          use:dragHandleZone={{ items: charts, type: 'chart', flipDurationMs: 150, dropTargetStyle: {} }}
          onconsider={({ detail }) => (charts = detail.items)}
          onfinalize={({ detail }) => void store(detail.items)}
        >
          {#each charts as chart, i (chart.id)}
            <BoardChartCard
              {chart}
              series={seriesOf(chart)}
              fromMs={drawn.value?.fromMs ?? fromMs}
              stepMs={drawn.value?.stepMs ?? 60_000}
              {toMs}
              watches={data.watches}
              height={HEIGHT}
              onmenu={(event, actions) => void menu?.open(event, actions)}
              onup={i > 0 ? () => move(i, i - 1) : null}
              ondown={i < charts.length - 1 ? () => move(i, i + 1) : null}
              onremove={() => void store(board.charts.filter(({ id }) => id !== chart.id))}
              onwide={() => change(chart.id, { wide: !chart.wide })}
              onrename={(title) => change(chart.id, { title })}
            />
          {/each}
        </ol>
      </ScrollRegion>
    {/if}
  </div>
</Page>
<ActionMenu bind:this={menu} />
<Confirm
  bind:question={removing}
  title="Remove this board?"
  action="Remove it"
  onconfirm={() => void remove()}
/>
