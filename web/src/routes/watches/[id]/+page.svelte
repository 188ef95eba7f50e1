<script lang="ts">
  import { goto, invalidate } from '$app/navigation';
  import { formatCount, formatDuration } from '@tromix/core/text/format';
  import { words } from '@tromix/core/text/words';
  import { figureOf } from '@tromix/core/watch/figures';
  import { watchName } from '@tromix/core/watch/watch';
  import { againstWords, limitWords, offWords, watchedWords } from '@tromix/core/watch/words';
  import type { DrawnPast } from '$lib/server/watch/past-run';
  import { resource } from '$lib/ui/frame/resource.svelte';
  import { send, sendAndSay } from '$lib/ui/frame/send';
  import Choices from '$lib/ui/kit/Choices.svelte';
  import Confirm from '$lib/ui/kit/Confirm.svelte';
  import ScrollRegion from '$lib/ui/kit/ScrollRegion.svelte';
  import Sentence from '$lib/ui/kit/Sentence.svelte';
  import { shortTime } from '$lib/ui/kit/time';
  import { railMarks } from '$lib/ui/rail/rail-marks.svelte';
  import Page from '$lib/ui/shell/Page.svelte';
  import { viewOfWatched } from '$lib/watched-place';
  import FigureChart from '$lib/ui/watch/FigureChart.svelte';
  import FiringTable from '$lib/ui/watch/FiringTable.svelte';
  import { limitMarks } from '$lib/ui/watch/limit-marks';
  import { watchActions, watching } from '$lib/ui/watch/offers.svelte';
  import { endOf, lastedWords, onAt } from '$lib/ui/watch/place-words';
  import StateSign from '$lib/ui/watch/StateSign.svelte';
  import WhoLooks from '$lib/ui/watch/WhoLooks.svelte';
  import { page } from '$app/state';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();
  const one = $derived(data.one);
  const condition = $derived(one.watch.condition);
  const figure = $derived(figureOf(condition.watched));
  const MINUTE_MS = 60_000;

  const SPANS = [
    { key: '3h', name: '3 hours', days: 0.125 },
    { key: '1d', name: 'day', days: 1 },
    { key: '7d', name: '7 days', days: 7 }
  ];
  const span = $derived(SPANS.find(({ key }) => key === page.url.searchParams.get('span')) ?? SPANS[0]);
  const past = resource(
    () => JSON.stringify({ condition, days: span.days, judged: one.judged }),
    (question, signal) => {
      const { judged: _, ...asked } = JSON.parse(question) as { judged: number };
      return send<DrawnPast>('POST', '/api/watches/past', asked, signal);
    },
    { keep: true }
  );
  const bands = $derived(
    data.firings.map(({ onMinute, offMinute }) => ({
      from: endOf(onMinute),
      to: offMinute === null ? data.readMs : endOf(offMinute),
      name: ''
    }))
  );
  $effect(() => {
    railMarks.stretches = bands.map(({ from, to }) => ({ from, to }));
    return () => (railMarks.stretches = []);
  });
  const open = $derived(data.firings.find(({ offMinute }) => offMinute === null));
  const isSilent = $derived(one.silentUntilUs > data.readMs * 1000);
  const did = $derived(
    [
      one.watch.actions.case ? 'opens a case' : '',
      ...one.watch.actions.record.map(({ kind, seconds, address }) =>
        kind === 'heap' || kind === 'threads'
          ? `takes a ${kind === 'heap' ? 'heap' : 'thread'} dump${address ? ` of ${address}` : ''}`
          : `records ${kind === 'cpu' ? 'CPU samples' : 'allocations'} for ${formatDuration(seconds * 1e9)}${address ? ` of ${address}` : ''}`
      ),
      one.watch.tellsNoData ? 'tells when there is no data' : ''
    ].filter(Boolean)
  );

  const onWords = $derived.by(() => {
    const times = data.firings.length;
    if (times === 0) return 'It was never on.';
    const lately =
      one.timesOn === times
        ? 'in the last 7 days'
        : `of which ${formatCount(one.timesOn)} in the last 7 days`;
    return `It was on ${times === 1 ? 'once' : `${formatCount(times)} times`}${one.timesOn === times ? ' ' : ', '}${lately}.`;
  });

  let removing = $state('');
  async function remove(): Promise<void> {
    if (await sendAndSay('DELETE', `/api/watches/${one.id}`, undefined, 'The watch was removed.'))
      await goto('/watches');
  }
  async function silence(minutes: number): Promise<void> {
    try {
      await send('PATCH', `/api/watches/${one.id}`, { minutes });
    } finally {
      await invalidate('tromix:watches');
    }
  }
  function edit(): void {
    watching.changing = { id: one.id, version: one.version, watch: one.watch };
    watching.watch = { watched: condition.watched };
  }
</script>

<Page>
  {#snippet scope()}<span
      >Watch <b class="font-semibold text-ink">{watchName(one.watch)}</b>{one.watch.owner
        ? `, seen to by ${one.watch.owner}`
        : ''}</span
    >{/snippet}
  {#snippet reading()}
    {#if one.state === 'on' && open}
      <Sentence
        text={words`It is on ${[lastedWords(open.onMinute, null, data.readMs)]}, since ${onAt(open.onMinute, data.readMs)}${open.worst === null ? '' : `; ${figure.text(open.worst)} at the worst`}.`}
      />
    {:else if one.state === 'no data'}
      <Sentence
        text={words`There is ${['no data']}: since ${onAt(one.since, data.readMs)} there were fewer than ${String(Math.max(1, figure.least))} ${figure.counted} in ${formatDuration(condition.over * 60e9)}${condition.limit.by === 'before' ? ', or nothing to hold them against' : ''}.`}
      />
    {:else if one.state === 'new'}
      <Sentence text={words`It was not judged yet: each minute is judged 15 s after it is over.`} />
    {:else}
      <Sentence
        text={words`It is ${['off']}${one.value === null ? '' : `: ${figure.text(one.value)} in the last minute that was judged`}.`}
      />
    {/if}
    <p class="mb-2">
      {onWords}
    </p>
    {#if isSilent}<p class="mb-2 text-ink-2">
        Nobody is told until {shortTime(one.silentUntilUs / 1000, data.readMs)}.
      </p>{/if}
    <h3 class="mt-3 mb-1 heading">What it says</h3>
    <p class="mb-1">On: {watchedWords(condition.watched)} {limitWords(condition)}.</p>
    <p class="mb-1">Off: {offWords(condition)}.</p>
    {#if condition.limit.by === 'before'}<p class="mb-1 text-ink-2">
        Clearly: chance alone brings so much about in fewer than one of a thousand minutes. It is held against
        what was {againstWords(condition.limit)}.
      </p>{/if}
    {#if did.length > 0}<p class="mb-1">When it comes on it {did.join(', ')}.</p>{/if}
    <p class="mt-3 flex flex-wrap gap-1.5">
      <a
        class="button button-solid"
        href={viewOfWatched(
          condition.watched,
          open ? { from: endOf(open.onMinute - condition.over - condition.for), to: data.readMs } : {}
        )}>Look into it</a
      >
      <button class="button" onclick={edit}>Change it</button>
      {#if isSilent}<button class="button" onclick={() => void silence(0)}>Tell again</button>
      {:else}
        <button class="button" onclick={() => void silence(60)}>Silence for 1 h</button>
        <button class="button" onclick={() => void silence(1440)}>Silence for a day</button>
      {/if}
      <button
        class="button"
        onclick={() => (removing = 'What it said goes with it, and so do recording plans that go by it.')}
        >Remove it</button
      >
    </p>
    <WhoLooks />
  {/snippet}
  <header class="flex flex-wrap items-baseline gap-x-4 gap-y-1 border-b border-rule px-4 py-2.5">
    <h1 class="text-[16px] font-semibold">{watchName(one.watch)}</h1>
    <StateSign state={one.state} severity={one.watch.severity} silent={isSilent} />
    <span class="ml-auto text-ink-2"
      ><Choices
        label="over the last"
        value={span.key}
        choices={SPANS.map(({ key, name }) => ({ key, name, href: `/watches/${one.id}?span=${key}` }))}
      /></span
    >
  </header>
  <ScrollRegion label="Watch">
    <section class="border-b border-rule px-2 py-3" aria-label="The figure over time">
      {#if past.error}<p class="px-2 text-alarm" role="alert">{past.error}</p>
      {:else if past.value}
        {@const { from, to, step, values } = past.value}
        <FigureChart
          lines={[{ title: figure.title, values }]}
          text={figure.text}
          fromMs={from * MINUTE_MS}
          stepMs={step * MINUTE_MS}
          toMs={(to + 1) * MINUTE_MS}
          limits={limitMarks(condition)}
          {bands}
          height={190}
          label="{watchedWords(
            condition.watched
          )} over the last {span.name}, each point over {condition.over} minutes."
          file="watch"
        />
        <p class="px-2 text-[11px] text-ink-3">
          Each point is taken over the {condition.over === 1 ? 'minute' : `${condition.over} minutes`} that end
          with it{step > 1 ? `; of ${step} of them the worst is drawn` : ''}.
          <button class="underline" onclick={() => watchActions({ watched: condition.watched })[1].run?.()}
            >Put it on a board</button
          >
        </p>
      {:else}<div class="h-[233.4px] px-2 text-ink-3" role="status">Reading…</div>{/if}
    </section>
    <FiringTable
      firings={data.firings}
      watchOf={() => one.watch}
      nowMs={data.readMs}
      title="When it was on"
      ofOne
    />
  </ScrollRegion>
</Page>
<Confirm
  bind:question={removing}
  title="Remove this watch?"
  action="Remove it"
  onconfirm={() => void remove()}
/>
