<script lang="ts">
  import { visitEvents } from '@tromix/core/pages/visit';
  import { formatDuration, plural } from '@tromix/core/text/format';
  import { screenKeys } from '$lib/ui/frame/keys.svelte';
  import { dateTime } from '$lib/ui/kit/time';
  import Sentence from '$lib/ui/kit/Sentence.svelte';
  import { LOAD_PARAMS } from '$lib/ui/pages/load-state';
  import EventFacts from '$lib/ui/pages/EventFacts.svelte';
  import { visitReading } from '$lib/ui/pages/visit-reading';
  import VisitTimeline from '$lib/ui/pages/VisitTimeline.svelte';
  import { noteChosen, urlState } from '$lib/ui/frame/url-state.svelte';
  import Page from '$lib/ui/shell/Page.svelte';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();
  screenKeys([{ keys: '↑ ↓', does: 'choose what happened' }]);
  const { visit } = $derived(data);
  const events = $derived(visitEvents(visit.loads));
  const first = $derived(events[0].fromMs);
  const last = $derived(events.reduce((end, { toMs }) => Math.max(end, toMs), first));
  const address = urlState(LOAD_PARAMS, () => ({ row: chosen }));
  let chosen: string = $derived((void visit.session, address.shown.row));
  noteChosen(address);
  const selected = $derived(events[Number(chosen)] ? Number(chosen) : 0);
</script>

<Page>
  {#snippet scope()}
    <span
      >Looking at one visit of <b class="font-semibold text-ink">{visit.loads[0].service}</b>, from
      <b class="font-semibold text-ink">{dateTime(first)}</b></span
    >
  {/snippet}
  {#snippet reading()}
    {#each visitReading(events, visit) as sentence, i (i)}<Sentence text={sentence} />{/each}
    <EventFacts
      {events}
      {visit}
      at={selected}
      onchoose={(at) => {
        chosen = String(at);
      }}
    />
    <p class="mt-3 text-[11px] text-ink-3">
      What follows a step within a second on the same page, and calls like it that go on from there, are taken
      to come of it; browsers do not tell.
    </p>
  {/snippet}
  <div class="flex items-baseline gap-3 px-4 pt-3 pb-2 whitespace-nowrap">
    <h1 class="text-[15px] font-semibold">
      <span class="font-mono text-[18px]">{formatDuration((last - first) * 1e6)}</span> of one visit
    </h1>
    <span class="truncate text-ink-2"
      >{plural(visit.loads.length, 'page load')}, {plural(
        events.filter(({ kind }) => kind === 'step').length,
        'step'
      )}</span
    >
  </div>
  <VisitTimeline
    {events}
    {selected}
    onselect={(at) => {
      chosen = String(at);
    }}
  />
</Page>
