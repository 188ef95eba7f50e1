<script lang="ts">
  import { page } from '$app/state';
  import { plural } from '@tromix/core/text/format';
  import { noteChosen, urlState } from '$lib/ui/frame/url-state.svelte';
  import Opening from '$lib/ui/kit/Opening.svelte';
  import { pairLink, viewLink } from '$lib/ui/shell/links';
  import { pinnable } from '$lib/ui/cases/pins.svelte';
  import { evidenceName } from '$lib/ui/compare/evidence-name';
  import Page from '$lib/ui/shell/Page.svelte';
  import ScopeMenu from '$lib/ui/shell/ScopeMenu.svelte';
  import { screenKeys } from '$lib/ui/frame/keys.svelte';
  import DataTable from '$lib/ui/tables/DataTable.svelte';
  import AcrossTable from '$lib/ui/threads/AcrossTable.svelte';
  import { DumpView } from '$lib/ui/threads/dump-view.svelte';
  import GroupTable from '$lib/ui/threads/GroupTable.svelte';
  import MergedStacks from '$lib/ui/threads/MergedStacks.svelte';
  import { dumpChoice, modeChoice, packageChoice, poolChoice } from '$lib/ui/threads/thread-choices';
  import { POOL_COLUMNS, THREAD_COLUMNS, threadRows } from '$lib/ui/threads/thread-columns';
  import { ThreadsClient } from '$lib/ui/threads/threads-client.svelte';
  import { threadOffer } from '$lib/ui/threads/thread-offer';
  import ThreadsHead from '$lib/ui/threads/ThreadsHead.svelte';
  import ThreadsReading from '$lib/ui/threads/ThreadsReading.svelte';
  import ThreadsTools from '$lib/ui/threads/ThreadsTools.svelte';
  import { THREADS_PARAMS, type ThreadsState } from '$lib/ui/threads/threads-state';
  import WaitsPicture from '$lib/ui/threads/WaitsPicture.svelte';
  import type { Zoom } from '$lib/ui/profile/flame-view';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();
  const { item } = $derived(data);
  pinnable(() => ({
    kind: 'threads',
    title: evidenceName(item),
    files: [item.id],
    ...(dump?.threads[selected] && waits && threadOffer(frames, dump, waits, selected))
  }));
  screenKeys([
    { keys: '←', does: 'in the picture: who this thread waits for' },
    { keys: '→ · ↑ ↓', does: 'who waits for it; its neighbours' },
    { keys: 'Enter', does: 'unfold a pool' },
    { keys: '[', does: 'the dump before', run: () => toDump(at - 1) },
    { keys: ']', does: 'the dump after', run: () => toDump(at + 1) },
    { keys: 's', does: 'search names and frames', run: () => searchField?.focus() }
  ]);

  let client = $state.raw<ThreadsClient | null>(null);
  let picture = $state<ReturnType<typeof WaitsPicture> | null>(null);
  let searchField = $state<HTMLInputElement | null>(null);
  /** Thread chosen in the dump that is looked at; kept in the URL without a visit to the server. */
  let selected = $state(-1);
  let find = $state('');

  /** The files of the series, as long as they are the same. */
  const files = $derived(data.series.map(({ id }) => id).join(' '));
  $effect(() => {
    const opening = new ThreadsClient(files.split(' '));
    client = opening;
    return () => opening.close();
  });
  const opened = $derived(client?.opened ?? null);
  const address = urlState(THREADS_PARAMS, () => ({ thread: selected, find, frame, zoom, whole }));
  const { shown } = $derived(address);
  let frame: string = $derived(shown.frame);
  let zoom: Zoom = $derived(shown.zoom);
  let whole: boolean = $derived(shown.whole);
  noteChosen(address);
  const filters = $derived<ThreadsState>({ ...shown, find });
  const view = new DumpView({
    get opened() {
      return opened;
    },
    get files() {
      return data.series;
    },
    get file() {
      return item;
    },
    get filters() {
      return filters;
    }
  });
  const { dump, waits, frames, at } = $derived(view);
  const gone = $derived(shown.thread >= 0 && dump !== undefined && shown.thread >= dump.threads.length);
  /** By its text, as what is shown: news make a new address object of the same address, and what was chosen since must stay. */
  const named = $derived(page.url.searchParams.get('named'));
  $effect(() => {
    find = shown.find;
    // A span names the thread that served it; an index is known here only.
    selected =
      shown.thread < 0 && named !== null && dump
        ? dump.threads.findIndex(({ name }) => name === named)
        : shown.thread;
  });

  /** The file before in the series: a file may hold several dumps. */
  const earlier = $derived(data.series[data.series.findIndex(({ id }) => id === item.id) - 1]);

  /** The same thread in another dump, where it is there too. */
  function toDump(next: number): void {
    if (next >= 0 && next < view.dumps.length)
      void address.go({ dump: next + 1, thread: view.sameIn(selected, next) });
  }
  function select(thread: number): void {
    selected = thread;
    address.note({ thread });
  }
  function showThread(thread: number): void {
    select(thread);
    picture?.show(thread);
  }
</script>

<Page>
  {#snippet scope()}
    <span
      >Looking at <b class="font-semibold text-ink">thread dumps</b> of
      <b class="font-semibold text-ink">{item.service || item.name || 'an unnamed process'}</b
      >{#if item.host}&nbsp;on
        <b class="font-semibold text-ink">{item.host}</b>{/if}{#if opened}, dump{/if}</span
    >
    {#if opened}
      <ScopeMenu choice={dumpChoice(view)} onchoose={(value) => toDump(Number(value))} />
      <span>at <b class="num font-semibold text-ink">{view.heads[at]}</b>,</span>
      <ScopeMenu choice={poolChoice(view, shown)} onchoose={(pool) => void address.go({ pool })} />
      <span class="-ml-1">,</span>
      <ScopeMenu
        choice={modeChoice(view, shown)}
        onchoose={(mode) => void address.go({ mode: mode as ThreadsState['mode'] })}
      />
      <span class="-ml-1">,</span>
      <ScopeMenu choice={packageChoice(view, shown)} onchoose={(from) => void address.go({ from })} />
    {/if}
  {/snippet}

  {#snippet reading()}
    {#if client?.error}
      <p class="text-alarm" role="alert">{client.error}</p>
    {:else if opened && dump && waits}
      <ThreadsReading
        {view}
        {dump}
        {waits}
        {selected}
        {gone}
        warnings={opened.warnings}
        hrefOf={address.href}
        onselect={showThread}
        bind:whole
      />
    {:else}
      <p class="text-ink-3">Reading the dumps…</p>
    {/if}
  {/snippet}

  {#if opened && dump && waits && client && !client.error}
    <ThreadsHead {view} {shown} hrefOf={address.href} />
    <ThreadsTools
      {view}
      {shown}
      name={item.service || item.name}
      compareHref={pairLink('threads', { after: item.id, ...(earlier && { before: earlier.id }) })}
      bind:find
      bind:searchField
      hrefOf={address.href}
      onfind={() => address.note({ find })}
    />
    {#if shown.show === 'merged'}
      <MergedStacks
        {client}
        dump={at}
        threads={view.chosen}
        chosen={frame}
        bind:zoom
        onchosen={(name) => {
          frame = name;
          address.note({});
        }}
      />
    {:else if shown.show === 'threads'}
      <DataTable
        label="Threads"
        kind="thread"
        rows={threadRows(frames, dump, view.chosen, view.deltas)}
        columns={THREAD_COLUMNS}
        keyOf={({ index }) => String(index)}
        hrefOf={({ index }) => address.href({ thread: index })}
        sort="-share"
        file="threads"
        empty="Your filters leave no threads."
      >
        {#snippet head()}<h1 class="text-[13px]">{plural(view.chosen.length, 'thread')}</h1>{/snippet}
      </DataTable>
    {:else if shown.show === 'pools'}
      <DataTable
        label="Pools"
        kind="thread"
        rows={view.pools.filter(({ threads }) => threads.some((thread) => view.chosenSet.has(thread)))}
        columns={POOL_COLUMNS}
        keyOf={({ pattern, threads }) => `${pattern} ${threads[0]}`}
        hrefOf={({ pattern }) => address.href({ pool: pattern, show: 'threads' })}
        sort="-size"
        file="pools"
        empty="Your filters leave no threads."
      >
        {#snippet head()}<h1 class="text-[13px]">Pools by name</h1>{/snippet}
      </DataTable>
    {:else}
      <div class="flex h-[52%] min-h-40 flex-col">
        <WaitsPicture
          bind:this={picture}
          {frames}
          {dump}
          {waits}
          unfolded={shown.unfolded}
          {selected}
          onselect={select}
          onunfold={(pool) => void address.go({ unfolded: [...shown.unfolded, pool] })}
        />
      </div>
      <div class="flex min-h-0 flex-1 border-t border-rule">
        <GroupTable
          {frames}
          {dump}
          groups={view.groups}
          top={shown.top}
          {selected}
          onselect={select}
          ontop={(top) => void address.go({ top })}
        />
        <div class="flex min-h-0 min-w-0 flex-1 border-l border-rule">
          <AcrossTable
            rows={view.across}
            heads={view.heads}
            dump={at}
            {selected}
            isAtWork={view.isAtWork}
            onselect={(next, thread) =>
              next === at ? showThread(thread) : void address.go({ dump: next + 1, thread })}
          />
        </div>
      </div>
    {/if}
  {:else}
    <Opening what={data.series.length === 1 ? 'dump' : 'series'} failed={client?.error ?? ''}>
      {#snippet others()}<a class="button" href={viewLink('/threads')}>Other dumps</a>{/snippet}
    </Opening>
  {/if}
</Page>
