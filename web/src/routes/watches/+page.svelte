<script lang="ts">
  import { plural } from '@tromix/core/text/format';
  import { words } from '@tromix/core/text/words';
  import { figureOf } from '@tromix/core/watch/figures';
  import { SEVERITIES, watchName } from '@tromix/core/watch/watch';
  import { watchedWords, limitWords } from '@tromix/core/watch/words';
  import type { ListedFiring, ListedWatch } from '$lib/server/watch/queries';
  import { screenKeys } from '$lib/ui/frame/keys.svelte';
  import Empty from '$lib/ui/kit/Empty.svelte';
  import ScrollRegion from '$lib/ui/kit/ScrollRegion.svelte';
  import Sentence from '$lib/ui/kit/Sentence.svelte';
  import Page from '$lib/ui/shell/Page.svelte';
  import { countColumn, textColumn } from '$lib/ui/tables/column-makers';
  import type { Column } from '$lib/ui/tables/columns';
  import DataTable from '$lib/ui/tables/DataTable.svelte';
  import { browserNotices } from '$lib/ui/watch/browser-notices.svelte';
  import FiringTable from '$lib/ui/watch/FiringTable.svelte';
  import { onAt } from '$lib/ui/watch/place-words';
  import StateSign from '$lib/ui/watch/StateSign.svelte';
  import WhoLooks from '$lib/ui/watch/WhoLooks.svelte';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();
  screenKeys([
    { keys: '↑ ↓', does: 'choose a watch' },
    { keys: 'Enter', does: 'open it' },
    { keys: 'w', does: 'on any chart or row of another view: watch it' }
  ]);
  const on = $derived(data.watches.filter(({ state }) => state === 'on'));
  const without = $derived(data.watches.filter(({ state }) => state === 'no data'));
  const worst = $derived(
    on.toSorted((a, b) => SEVERITIES.indexOf(b.watch.severity) - SEVERITIES.indexOf(a.watch.severity))[0]
  );
  const judgedTo = $derived(Math.max(0, ...data.watches.map(({ judged }) => judged)));
  const names = $derived(new Map(data.watches.map(({ id, watch }) => [id, watch])));

  const RANK = { on: 3, 'no data': 2, new: 1, off: 0 } as const;
  const columns: Column<ListedWatch>[] = [
    {
      key: 'state',
      title: 'stands',
      width: 110,
      value: ({ state, watch }) => RANK[state] * 10 + SEVERITIES.indexOf(watch.severity)
    },
    { key: 'watch', title: 'watch', width: 250, grows: true, value: ({ watch }) => watchName(watch) },
    {
      key: 'value',
      title: 'now',
      width: 92,
      right: true,
      value: ({ value }) => value,
      text: ({ value, watch }) => (value === null ? '–' : figureOf(watch.condition.watched).text(value))
    },
    textColumn('since', 'since', ({ since, state }) => (state === 'new' ? '' : onAt(since, data.readMs)), {
      width: 116
    }),
    countColumn('times', 'in 7 days', ({ timesOn }) => timesOn, {
      about: 'How often it came on in the last 7 days',
      width: 84
    }),
    textColumn('owner', 'owner', ({ watch }) => watch.owner, { width: 110 })
  ];
</script>

<Page>
  {#snippet scope()}<span
      >Looking at <b class="font-semibold text-ink">all watches</b>, judged every minute{judgedTo > 0
        ? `, last that of ${onAt(judgedTo - 1, data.readMs)}`
        : ''}</span
    >{/snippet}
  {#snippet reading()}
    {#if data.watches.length === 0}
      <p>Nothing is watched yet.</p>
    {:else}
      <Sentence
        text={on.length === 0
          ? words`None of ${[plural(data.watches.length, 'watch', 'watches')]} is on.`
          : words`${[String(on.length)]} of ${plural(data.watches.length, 'watch', 'watches')} ${on.length === 1 ? 'is' : 'are'} on.`}
      />
      {#if worst}<Sentence
          text={words`${[watchName(worst.watch)]}: ${worst.value === null ? 'no value in the last minute' : figureOf(worst.watch.condition.watched).text(worst.value)}, on since ${onAt(worst.since, data.readMs)}.`}
        />{/if}
      {#if without.length > 0}<Sentence
          text={words`${[plural(without.length, 'watch has', 'watches have')]} no data: what they look at sends nothing, or too little to judge.`}
        />{/if}
    {/if}
    {#if data.unreadable > 0}<p class="mt-2 text-alarm">
        {plural(data.unreadable, 'watch was', 'watches were')} saved by a newer version of Tromix and cannot be
        judged by this one.
      </p>{/if}
    <h3 class="mt-3 mb-1 heading">Who is told</h3>
    <p class="mb-2 text-ink-2">
      The number beside <b class="font-[620]">Watches</b> counts what nobody looked at yet. {data.hooks
        .length === 0
        ? 'No webhook is told.'
        : `${plural(data.hooks.length, 'webhook is', 'webhooks are')} told.`}
    </p>
    <p class="flex flex-wrap gap-1.5">
      <a class="button" href="/watches/webhooks">Webhooks</a>
      <button class="button" aria-pressed={browserNotices.isOn} onclick={() => void browserNotices.toggle()}
        >{browserNotices.isOn ? 'Browser notices are on' : 'Show browser notices'}</button
      >
    </p>
    <WhoLooks />
  {/snippet}
  {#if data.watches.length === 0}
    <Empty title="No watches yet">
      <p>
        Press <kbd class="num">w</kbd> on a chart or a row: an endpoint, a call, a failure, a page, a counter. Before
        it is saved you see what it would have said in the last 7 days.
      </p>
      <p>
        <a class="underline" href="/">Overview</a> · <a class="underline" href="/calls">Calls</a> ·
        <a class="underline" href="/failures">Failures</a> · <a class="underline" href="/hosts">Hosts</a> ·
        <a class="underline" href="/pages">Pages</a>
      </p>
    </Empty>
  {:else}
    <ScrollRegion label="Watches">
      <DataTable
        label="Watches"
        rows={data.watches}
        {columns}
        keyOf={({ id }) => id}
        hrefOf={({ id }) => `/watches/${id}`}
        linkName={({ watch }) => watchName(watch)}
        sort="-state"
        file="watches"
        short
      >
        {#snippet head()}<h1 class="text-[13px] text-ink">Watches</h1>{/snippet}
        {#snippet cell(row, column)}
          {#if column.key === 'state'}
            <StateSign
              state={row.state}
              severity={row.watch.severity}
              silent={row.silentUntilUs > data.readMs * 1000}
            />
          {:else if column.key === 'watch'}
            <span class="block truncate font-[560]" title={watchName(row.watch)}
              >{row.watch.name || watchedWords(row.watch.condition.watched)}</span
            >
            <span class="block truncate text-[11px] text-ink-3"
              >{row.watch.name ? `${watchedWords(row.watch.condition.watched)} ` : ''}{limitWords(
                row.watch.condition
              )}</span
            >
          {/if}
        {/snippet}
      </DataTable>
      <FiringTable
        firings={data.firings}
        watchOf={(firing: ListedFiring) => names.get(firing.watchId)}
        nowMs={data.readMs}
        title="What they said"
      />
    </ScrollRegion>
  {/if}
</Page>
