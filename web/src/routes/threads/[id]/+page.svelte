<script lang="ts">
  import { goto, replaceState } from '$app/navigation';
  import { page } from '$app/state';
  import { plainText } from '@tromix/core/text/words';
  import { formatCount, formatDuration, formatShare, plural } from '@tromix/core/text/format';
  import { DOING_WORDS, doingOfThread } from '@tromix/core/threads/doing';
  import { stackGroups } from '@tromix/core/threads/groups';
  import { THREAD_MODES, type DumpThread } from '@tromix/core/threads/model';
  import { waitsPicture } from '@tromix/core/threads/picture';
  import type { ThreadAcross } from '@tromix/core/threads/across';
  import { packagesOf } from '@tromix/core/threads/packages';
  import { placeOf, placeWords } from '@tromix/core/threads/places';
  import { isIdle, type Pool } from '@tromix/core/threads/pools';
  import { untrack } from 'svelte';
  import ActionMenu from '$lib/ui/kit/ActionMenu.svelte';
  import { copyText, type Action } from '$lib/ui/kit/actions';
  import Choices from '$lib/ui/kit/Choices.svelte';
  import { saveText } from '$lib/ui/kit/csv';
  import Empty from '$lib/ui/kit/Empty.svelte';
  import Finding from '$lib/ui/kit/Finding.svelte';
  import Sentence from '$lib/ui/kit/Sentence.svelte';
  import { exactTime } from '$lib/ui/kit/time';
  import { viewLink } from '$lib/ui/shell/links';
  import Page from '$lib/ui/shell/Page.svelte';
  import type { ScopeChoice } from '$lib/ui/shell/scope-parts';
  import ScopeMenu from '$lib/ui/shell/ScopeMenu.svelte';
  import { describeKeys } from '$lib/ui/shell/shell-state.svelte';
  import DataTable from '$lib/ui/tables/DataTable.svelte';
  import type { Column } from '$lib/ui/tables/columns';
  import AcrossTable from '$lib/ui/waits-for/AcrossTable.svelte';
  import GroupTable from '$lib/ui/waits-for/GroupTable.svelte';
  import MergedStacks from '$lib/ui/waits-for/MergedStacks.svelte';
  import { MODES } from '$lib/ui/waits-for/modes';
  import StackOf from '$lib/ui/waits-for/StackOf.svelte';
  import { ThreadsSession } from '$lib/ui/waits-for/threads-session.svelte';
  import {
    isIdleDaemon,
    matching,
    readState,
    writeState,
    type Show,
    type ThreadsState
  } from '$lib/ui/waits-for/view-state';
  import WaitsPicture from '$lib/ui/waits-for/WaitsPicture.svelte';
  import { waitsSvg } from '$lib/ui/waits-for/waits-svg';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();
  const { item } = $derived(data);
  describeKeys([
    { keys: '←', does: 'in the picture: who this thread waits for' },
    { keys: '→ · ↑ ↓', does: 'who waits for it; its neighbours' },
    { keys: 'Enter', does: 'unfold a pool' },
    { keys: '[ · ]', does: 'the dump before, the dump after' },
    { keys: 's', does: 'search names and frames' }
  ]);

  let session = $state.raw<ThreadsSession | null>(null);
  let picture = $state<ReturnType<typeof WaitsPicture> | null>(null);
  let menu = $state<ReturnType<typeof ActionMenu> | null>(null);
  let searchField = $state<HTMLInputElement | null>(null);
  /** Thread chosen in the dump that is looked at; kept in the URL without a visit to the server. */
  let selected = $state(-1);
  let find = $state('');

  /** The files of the series, as long as they are the same. */
  const files = $derived(data.series.map(({ id }) => id).join(' '));
  $effect(() => {
    const opening = new ThreadsSession(files.split(' '));
    session = opening;
    return () => opening.close();
  });
  const opened = $derived(session?.opened ?? null);
  const shown = $derived(readState(page.url.searchParams));
  $effect(() => {
    find = shown.find;
    // A span names the thread that served it; an index is known here only.
    const named = page.url.searchParams.get('named');
    selected =
      shown.thread < 0 && named !== null && dump
        ? dump.threads.findIndex(({ name }) => name === named)
        : shown.thread;
  });

  const dumps = $derived(opened?.series.dumps ?? []);
  /** The dump asked for; else the last of the file that was opened. */
  const at = $derived.by(() => {
    if (!opened) return 0;
    if (shown.dump > 0) return Math.min(shown.dump, dumps.length) - 1;
    const part = data.series.findIndex(({ id }) => id === item.id);
    return Math.max(0, opened.partOf.lastIndexOf(part));
  });
  const dump = $derived(dumps[at]);
  const frames = $derived(opened?.series.frames ?? []);
  const waits = $derived(opened?.waits[at]);
  const filters = $derived<ThreadsState>({ ...shown, find });
  const chosen = $derived(dump ? matching(frames, dump.threads, filters) : []);
  const chosenSet = $derived(new Set(chosen));
  const filtered = $derived(
    filters.pool !== '' || filters.mode !== '' || filters.from !== '' || filters.find !== ''
  );
  const groups = $derived(dump ? stackGroups(dump, filters.top || Infinity, chosen) : []);
  const across = $derived(
    (opened?.across ?? [])
      .filter(({ standings }) => {
        const standing = standings[at];
        if (standing) return chosenSet.has(standing.thread);
        return !filtered && standings.some((one, i) => one && !dumps[i].threads[one.thread].system);
      })
      .map((one) => ({ one, weight: weightOf(one) }))
      .sort((a, b) => b.weight - a.weight)
      .map(({ one }) => one)
  );
  /** Who holds up others first, then who is held up, then who did not move; who waits for work last. */
  function weightOf({ standings, sameFor }: ThreadAcross): number {
    const thread = standings[at]?.thread;
    if (thread === undefined || !waits) return -1;
    if (isIdle(frames, dump.threads[thread]) !== false) return 0;
    return (
      (waits.heldQueues[thread].length > 0 ? 1000 : 0) + (waits.queueOf[thread] >= 0 ? 100 : 0) + sameFor
    );
  }
  /** Who waits for work stands still and is not stuck. */
  const isAtWork = (standing: { dump: number; thread: number }): boolean =>
    isIdle(frames, dumps[standing.dump].threads[standing.thread]) === false;
  const UNFILTERED = { pool: '', from: '', find: '' };
  const modeCounts = $derived(
    THREAD_MODES.map((mode) => ({
      mode,
      count: dump ? matching(frames, dump.threads, { ...filters, ...UNFILTERED, mode }).length : 0
    })).filter(({ count }) => count > 0)
  );
  const most = $derived(Math.max(1, ...modeCounts.map(({ count }) => count)));
  const systemCount = $derived(dump?.threads.filter(({ system }) => system).length ?? 0);
  const daemonCount = $derived(dump?.threads.filter((thread) => isIdleDaemon(frames, thread)).length ?? 0);

  /** A recording that was moved in time says so by when it began. */
  function atMs(i: number): number {
    const { startedAtUs, summary } = data.series[opened?.partOf[i] ?? 0] ?? item;
    const own = Date.parse(dumps[i]?.capturedAt ?? '');
    if (!Number.isFinite(own)) return (startedAtUs ?? 0) / 1000;
    return own + (startedAtUs === null || !summary?.firstMs ? 0 : startedAtUs / 1000 - summary.firstMs);
  }
  const heads = $derived(
    dumps.map((_, i) => (atMs(i) > 0 ? exactTime(atMs(i)).replace(/\.\d+$/, '') : `dump ${i + 1}`))
  );
  const apart = $derived(dumps.length > 1 ? (atMs(dumps.length - 1) - atMs(0)) / (dumps.length - 1) : 0);

  function hrefOf(change: Partial<ThreadsState>): string {
    return `${page.url.pathname}?${writeState(page.url.searchParams, { ...shown, thread: selected, find, ...change })}`;
  }
  const go = (change: Partial<ThreadsState>): Promise<void> =>
    goto(hrefOf(change), { keepFocus: true, noScroll: true });
  /** The same thread in another dump, where it is there too. */
  function toDump(next: number): void {
    const same = opened?.across.find(({ standings }) => standings[at]?.thread === selected);
    void go({ dump: next + 1, thread: same?.standings[next]?.thread ?? -1 });
  }
  function select(thread: number): void {
    selected = thread;
    untrack(() => replaceState(hrefOf({ thread }), page.state));
  }
  function showThread(thread: number): void {
    select(thread);
    picture?.show(thread);
  }

  const dumpChoice = $derived<ScopeChoice>({
    shown: `${at + 1} of ${dumps.length}`,
    about: 'Dump',
    options: dumps.map(({ threads }, i) => ({
      label: heads[i],
      detail: plural(threads.length, 'thread'),
      value: String(i)
    })),
    value: String(at)
  });
  const poolChoice = $derived<ScopeChoice>({
    shown: shown.pool || 'every pool',
    about: 'Pool',
    options: [
      { label: 'every pool', value: '' },
      ...(opened?.pools[at] ?? [])
        .filter(({ threads }) => threads.length > 1)
        .map(({ pattern, threads }) => ({
          label: pattern,
          detail: formatCount(threads.length),
          value: pattern
        }))
    ],
    value: shown.pool
  });
  const modeChoice = $derived<ScopeChoice>({
    shown: shown.mode ? `only ${MODES[shown.mode].name}` : 'in any state',
    about: 'State',
    options: [
      { label: 'in any state', value: '' },
      ...modeCounts.map(({ mode, count }) => ({
        label: MODES[mode].name,
        detail: formatCount(count),
        value: mode
      }))
    ],
    value: shown.mode
  });

  const packageChoice = $derived<ScopeChoice>({
    shown: shown.from ? `with ${shown.from} in the stack` : 'in any package',
    about: 'Package',
    options: [
      { label: 'in any package', value: '' },
      ...packagesOf(frames, dump?.threads ?? []).map(({ name, runtime, threads }) => ({
        label: name,
        detail: `${formatCount(threads)}${runtime ? ', runtime' : ''}`,
        value: name
      }))
    ],
    value: shown.from
  });

  const SHOW_NAMES: Record<Show, string> = {
    waits: 'Who holds up whom',
    threads: 'Threads',
    pools: 'Pools',
    merged: 'Merged stacks'
  };

  const reading = $derived(opened ? opened.readings[at] : []);
  /** What a finding says that the reading above it has not said already. */
  function beyondReading(sentence: string): string {
    const said = reading.map(plainText).find((one) => sentence.startsWith(one));
    return said ? sentence.slice(said.length).trim() : sentence;
  }
  const findings = $derived(opened ? opened.findings[at] : []);
  const exports = $derived<Action[]>([
    {
      name: 'Picture, SVG',
      run: () => {
        if (!waits) return;
        const whole = waitsPicture(frames, dump, waits, new Set(shown.unfolded));
        saveText('waits-for.svg', waitsSvg(frames, dump, waits, whole), 'image/svg+xml');
      }
    },
    {
      name: 'Reading, text',
      run: () =>
        saveText(
          'threads.txt',
          [
            `${item.service || item.name}, dump ${at + 1} of ${dumps.length}, ${heads[at]}`,
            ...reading.map(plainText),
            '',
            ...findings.map(({ title, sentence, remedy }) => `${title}: ${sentence} ${remedy}`)
          ].join('\n'),
          'text/plain'
        )
    },
    { name: 'Copy the reading', run: () => copyText(reading.map(plainText).join('\n')) }
  ]);

  interface ThreadRow {
    index: number;
    thread: DumpThread;
    place: string;
    doing: string;
    deltaMs: number | null;
    share: number | null;
  }
  const deltas = $derived(
    new Map(
      (opened?.across ?? []).flatMap(({ standings }) =>
        standings[at] ? [[standings[at].thread, standings[at].cpuMs]] : []
      )
    )
  );
  const threadRows = $derived(
    shown.show !== 'threads'
      ? []
      : chosen.map((index): ThreadRow => {
          const thread = dump.threads[index];
          const place = placeOf(frames, thread);
          return {
            index,
            thread,
            place: place ? placeWords(place) : '',
            doing: thread.system ? 'the runtime’s own' : DOING_WORDS[doingOfThread(frames, thread)],
            deltaMs: deltas.get(index) ?? null,
            share:
              thread.cpuMs !== null && thread.elapsedMs ? Math.min(1, thread.cpuMs / thread.elapsedMs) : null
          };
        })
  );
  const ms = (value: number | null): string => (value === null ? '–' : formatDuration(value * 1e6));
  const threadColumns: Column<ThreadRow>[] = [
    {
      key: 'name',
      title: 'thread',
      width: 150,
      value: ({ thread }) => thread.name,
      text: ({ thread }) => thread.name || '(no name)'
    },
    {
      key: 'state',
      title: 'state',
      width: 84,
      value: ({ thread }) => thread.mode,
      text: ({ thread }) => MODES[thread.mode].name
    },
    { key: 'doing', title: 'doing', width: 160, value: ({ doing }) => doing, text: ({ doing }) => doing },
    {
      key: 'place',
      title: 'stands at',
      width: 176,
      grows: true,
      value: ({ place }) => place,
      text: ({ place }) => place || 'no stack'
    },
    {
      key: 'cpu',
      title: 'CPU',
      about: 'CPU time since the thread began',
      width: 72,
      right: true,
      value: ({ thread }) => thread.cpuMs,
      text: ({ thread }) => ms(thread.cpuMs)
    },
    {
      key: 'share',
      title: 'of life',
      about: 'CPU time as a share of the thread’s life',
      width: 64,
      right: true,
      value: ({ share }) => share,
      text: ({ share }) => (share === null ? '–' : formatShare(share))
    },
    {
      key: 'delta',
      title: 'since',
      about: 'CPU time since the dump before',
      width: 72,
      right: true,
      value: ({ deltaMs }) => deltaMs,
      text: ({ deltaMs }) => ms(deltaMs)
    }
  ];
  const poolColumns: Column<Pool>[] = [
    {
      key: 'pool',
      title: 'pool',
      about: 'Names with their last number as *',
      width: 220,
      grows: true,
      value: ({ pattern }) => pattern,
      text: ({ pattern }) => pattern
    },
    {
      key: 'size',
      title: 'threads',
      width: 76,
      right: true,
      value: ({ threads }) => threads.length,
      text: ({ threads }) => formatCount(threads.length)
    },
    {
      key: 'busy',
      title: 'busy',
      about: 'At work, or held up in it',
      width: 66,
      right: true,
      value: ({ busy }) => busy,
      text: ({ busy }) => formatCount(busy)
    },
    {
      key: 'idle',
      title: 'idle',
      about: 'Wait for work, in the runtime’s own code',
      width: 66,
      right: true,
      value: ({ idle }) => idle,
      text: ({ idle }) => formatCount(idle)
    },
    {
      key: 'undecided',
      title: 'unclear',
      about: 'Wait for something in the program’s own code: for work, or for somebody',
      width: 72,
      right: true,
      value: ({ undecided }) => undecided,
      text: ({ undecided }) => formatCount(undecided)
    },
    ...THREAD_MODES.slice(0, 4).map((mode): Column<Pool> => ({
      key: mode,
      title: MODES[mode].name,
      width: 78,
      right: true,
      value: ({ modes }) => modes[mode],
      text: ({ modes }) => formatCount(modes[mode])
    }))
  ];

  function onkeydown(event: KeyboardEvent): void {
    if ((event.target as HTMLElement).matches('input, select, textarea') || event.metaKey || event.ctrlKey)
      return;
    if (event.key === '[' && at > 0) toDump(at - 1);
    if (event.key === ']' && at < dumps.length - 1) toDump(at + 1);
    if (event.key === 's') {
      event.preventDefault();
      searchField?.focus();
    }
  }
  const removed = $derived(shown.thread >= 0 && dump !== undefined && shown.thread >= dump.threads.length);
</script>

<svelte:window {onkeydown} />

<Page>
  {#snippet scope()}
    <span
      >Looking at <b class="font-semibold text-ink">thread dumps</b> of
      <b class="font-semibold text-ink">{item.service || item.name || 'an unnamed process'}</b
      >{#if item.host}&nbsp;on
        <b class="font-semibold text-ink">{item.host}</b>{/if}{#if opened}, dump{/if}</span
    >
    {#if opened}
      <ScopeMenu choice={dumpChoice} onchoose={(value) => toDump(Number(value))} />
      <span>at <b class="num font-semibold text-ink">{heads[at]}</b>,</span>
      <ScopeMenu choice={poolChoice} onchoose={(pool) => void go({ pool })} />
      <span class="-ml-1">,</span>
      <ScopeMenu choice={modeChoice} onchoose={(mode) => void go({ mode: mode as ThreadsState['mode'] })} />
      <span class="-ml-1">,</span>
      <ScopeMenu choice={packageChoice} onchoose={(from) => void go({ from })} />
    {/if}
  {/snippet}

  {#snippet reading()}
    {#if session?.error}
      <p class="text-alarm" role="alert">{session.error}</p>
    {:else if opened && dump && waits}
      {#each opened.readings[at] as sentence, i (i)}<Sentence text={sentence} />{/each}
      {#if selected >= 0 && selected < dump.threads.length}
        {#key selected}<StackOf {frames} {dump} {waits} thread={selected} onselect={showThread} />{/key}
      {:else}
        <p class="mt-3 text-ink-3">
          {removed
            ? 'The thread asked for is not in this dump.'
            : 'Choose a thread to see its stack, with the locks it holds and wants.'}
        </p>
      {/if}
      {#each findings as finding, i (i)}
        <Finding title={finding.title} severity={finding.severity}>
          {@const more = beyondReading(finding.sentence)}
          {#if more}<p>{more}</p>{/if}
          <p class="mt-1 text-ink-2">{finding.remedy}</p>
          {#snippet actions()}
            {#if finding.evidence.dump === at}
              <button class="button button-solid" onclick={() => showThread(finding.thread)}
                >Show its stack</button
              >
            {:else}
              <a
                class="button button-solid"
                href={hrefOf({ dump: finding.evidence.dump + 1, thread: finding.thread })}>Show its stack</a
              >
            {/if}
            <a class="button" href="/findings/{finding.rule}">The rule</a>
          {/snippet}
        </Finding>
      {/each}
      {#each dump.notes as note, i (i)}<p class="mt-2 text-[11px] text-ink-3">{note}</p>{/each}
      {#each opened.warnings as warning, i (i)}
        <p class="mt-2 text-[11px] text-ink-3">{formatCount(warning.count)}×: {warning.message}</p>
      {/each}
    {:else}
      <p class="text-ink-3">Reading the dumps…</p>
    {/if}
  {/snippet}

  {#if session?.error}
    <Empty title="These dumps cannot be shown">
      <p>{session.error}</p>
      <a class="button" href={viewLink('/threads')}>Other dumps</a>
    </Empty>
  {:else if opened && dump && waits}
    <div class="flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-rule px-4 py-2 text-ink-2">
      <span
        >{plural(dumps.length, 'dump')}{#if apart > 0}, {formatDuration(apart * 1e6)} apart{/if}</span
      >
      {#each modeCounts as { mode, count } (mode)}
        <a
          class="flex items-center gap-1.5 hover:text-ink aria-pressed:text-ink"
          href={hrefOf({ mode: shown.mode === mode ? '' : mode })}
          role="button"
          aria-pressed={shown.mode === mode}
          ><b class="num font-semibold text-ink">{formatCount(count)}</b>
          {MODES[mode].name}<i
            class="inline-block h-2 {shown.mode === mode ? 'outline-2 outline-pen' : ''}"
            style:width="{Math.max(4, (count / most) * 36)}px"
            style:background={MODES[mode].colour}
          ></i></a
        >
      {/each}
      {#if systemCount > 0}
        <a
          class="toggle text-[11px]"
          role="button"
          aria-pressed={shown.system}
          href={hrefOf({ system: !shown.system })}>{formatCount(systemCount)} of the runtime</a
        >
      {/if}
      {#if daemonCount > 0}
        <a
          class="toggle text-[11px]"
          role="button"
          aria-pressed={shown.daemons}
          title="Daemon threads that wait for work"
          href={hrefOf({ daemons: !shown.daemons })}>{plural(daemonCount, 'idle daemon')}</a
        >
      {/if}
    </div>
    <div
      class="flex flex-wrap items-center gap-x-3 gap-y-1 border-b border-rule px-4 py-1.5 whitespace-nowrap text-ink-2"
    >
      <Choices
        label=""
        choices={(Object.keys(SHOW_NAMES) as Show[]).map((key) => ({
          key,
          name: SHOW_NAMES[key],
          href: hrefOf({ show: key })
        }))}
        value={shown.show}
      />
      <span class="ml-auto flex items-center gap-2">
        {#if filtered}<span class="text-[11px]"
            >{plural(chosen.length, 'thread')} of {formatCount(dump.threads.length)}</span
          >{/if}
        {#each shown.unfolded as pool (pool)}<span class="chip text-[11px]"
            >{pool} unfolded<a
              href={hrefOf({ unfolded: shown.unfolded.filter((one) => one !== pool) })}
              aria-label="Fold {pool} again">×</a
            ></span
          >{/each}
        <input
          class="w-40 field py-0.5"
          placeholder="Search names, frames"
          aria-label="Search names and frames"
          bind:this={searchField}
          bind:value={find}
          onchange={() => replaceState(hrefOf({ find }), page.state)}
          onkeydown={(event) => event.key === 'Escape' && (find = '')}
        />
        <button class="button" aria-haspopup="menu" onclick={(event) => menu?.open(event, exports)}
          >Export</button
        >
      </span>
    </div>
    {#if shown.show === 'merged' && session}
      <MergedStacks {session} dump={at} threads={chosen} />
    {:else if shown.show === 'threads'}
      <DataTable
        label="Threads"
        rows={threadRows}
        columns={threadColumns}
        keyOf={({ index }) => String(index)}
        hrefOf={({ index }) => hrefOf({ thread: index })}
        sort="-share"
        file="threads"
        empty="No thread is left by the filters."
      >
        {#snippet head()}<h1 class="text-[13px]">{plural(chosen.length, 'thread')}</h1>{/snippet}
      </DataTable>
    {:else if shown.show === 'pools'}
      <DataTable
        label="Pools"
        rows={opened.pools[at].filter(({ threads }) => threads.some((thread) => chosenSet.has(thread)))}
        columns={poolColumns}
        keyOf={({ pattern, threads }) => `${pattern} ${threads[0]}`}
        hrefOf={({ pattern }) => hrefOf({ pool: pattern, show: 'threads' })}
        sort="-size"
        file="pools"
        empty="No thread is left by the filters."
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
          onunfold={(pool) => void go({ unfolded: [...shown.unfolded, pool] })}
        />
      </div>
      <div class="flex min-h-0 flex-1 border-t border-rule">
        <GroupTable
          {frames}
          {dump}
          {groups}
          top={shown.top}
          {selected}
          onselect={select}
          ontop={(top) => void go({ top })}
        />
        <div class="flex min-h-0 min-w-0 flex-1 border-l border-rule">
          <AcrossTable
            rows={across}
            {heads}
            dump={at}
            {selected}
            {isAtWork}
            onselect={(next, thread) =>
              next === at ? showThread(thread) : void go({ dump: next + 1, thread })}
          />
        </div>
      </div>
    {/if}
    <ActionMenu bind:this={menu} />
  {:else}
    <div class="grid h-full place-items-center text-ink-3" role="status">
      Reading {plural(data.series.length, 'file')} of thread dumps…
    </div>
  {/if}
</Page>
