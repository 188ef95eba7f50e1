<script lang="ts">
  import { goto, replaceState } from '$app/navigation';
  import { page } from '$app/state';
  import type { ClassGrowth } from '@tromix/core/heap/heap-diff';
  import type { HeapMeta } from '@tromix/core/heap/heap-store';
  import { formatBytes, formatCount, formatShare, plural } from '@tromix/core/text/format';
  import { untrack } from 'svelte';
  import {
    HeapClient,
    type HeapOverview,
    type ObjectList,
    type RepeatedText,
    type Way
  } from '$lib/ui/holders/heap-client';
  import { readState, writeState, type HeapState, type Show } from '$lib/ui/holders/heap-state';
  import HolderMap from '$lib/ui/holders/HolderMap.svelte';
  import ObjectPanel from '$lib/ui/holders/ObjectPanel.svelte';
  import ObjectTable from '$lib/ui/holders/ObjectTable.svelte';
  import WayPicture from '$lib/ui/holders/WayPicture.svelte';
  import type { Action } from '$lib/ui/kit/actions';
  import Choices from '$lib/ui/kit/Choices.svelte';
  import Empty from '$lib/ui/kit/Empty.svelte';
  import Finding from '$lib/ui/kit/Finding.svelte';
  import Sentence from '$lib/ui/kit/Sentence.svelte';
  import { dateTime, shortTime } from '$lib/ui/kit/time';
  import { saveText } from '$lib/ui/kit/csv';
  import { viewLink } from '$lib/ui/shell/links';
  import Page from '$lib/ui/shell/Page.svelte';
  import type { ScopeChoice } from '$lib/ui/shell/scope-parts';
  import ScopeMenu from '$lib/ui/shell/ScopeMenu.svelte';
  import { describeKeys } from '$lib/ui/shell/shell-state.svelte';
  import DataTable from '$lib/ui/tables/DataTable.svelte';
  import type { Column } from '$lib/ui/tables/columns';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();
  const item = $derived(data.item);
  describeKeys([
    { keys: 'Tab · Enter', does: 'in the picture: go to a holder, choose it' },
    { keys: 's', does: 'search classes' }
  ]);

  const shown = $derived(readState(page.url.searchParams));
  /** Chosen here until the address says otherwise. */
  let selected = $derived(shown.object);
  /** The earlier dump of the same process, unless another was chosen. */
  const against = $derived(
    shown.against === 'none' ? '' : shown.against || (data.inSeries ? (data.earlier.at(-1)?.id ?? '') : '')
  );
  const id = $derived(item.id);
  const client = $derived(new HeapClient(id, shown.weak));

  let building = $state<{ doing: string; part: number } | null>(null);
  let failed = $state('');
  let overview = $state.raw<HeapOverview | null>(null);
  let table = $state.raw<Pick<HeapMeta, 'classes' | 'packages'> | null>(null);
  let way = $state.raw<Way | null>(null);
  let list = $state.raw<ObjectList | null>(null);
  let listNote = $state('');
  let texts = $state.raw<RepeatedText[] | null>(null);
  let searchField = $state<HTMLInputElement | null>(null);
  let attempt = $state(0);

  const POLL_MS = 400;
  /** Waits until a dump is indexed, and says meanwhile how far it is. */
  async function ready(asked: HeapClient, again: boolean, current: () => boolean): Promise<boolean> {
    for (let first = again; current(); first = false) {
      const state = await asked.state(first);
      if (state.state === 'ready') return true;
      if (state.state === 'failed') throw new Error(state.message);
      building = state;
      await new Promise((resolve) => setTimeout(resolve, POLL_MS));
    }
    return false;
  }
  $effect(() => {
    const asked = client;
    const before = against;
    const weak = shown.weak;
    const again = attempt > 0;
    let left = false;
    const current = (): boolean => !left;
    overview = null;
    table = null;
    failed = '';
    void (async () => {
      if (before && !(await ready(new HeapClient(before, weak), false, current))) return;
      if (!(await ready(asked, again, current))) return;
      const [whole, classes] = await Promise.all([asked.overview(before), asked.classes()]);
      if (left) return;
      building = null;
      [overview, table] = [whole, classes];
    })().catch((cause: Error) => {
      if (!left) [failed, building] = [cause.message, null];
    });
    return () => (left = true);
  });

  /** What the picture shows the way to: what was chosen, else what the costliest finding is about. */
  const wayObject = $derived(
    selected >= 0
      ? selected
      : (overview?.findings.find(({ evidence }) => evidence.object !== null)?.evidence.object ?? -1)
  );
  $effect(() => {
    const asked = wayObject;
    if (!overview || asked < 0) {
      way = null;
      return;
    }
    void client.way(asked).then((found) => {
      if (asked === wayObject) way = found;
    });
  });
  $effect(() => {
    const { show, name, value, least, root, added } = shown;
    if (!overview) return;
    const asked = client;
    list = null;
    listNote = '';
    const take = (found: ObjectList): void => {
      if (asked === client) list = found;
    };
    if (show === 'objects' && added && against)
      void asked.added(against, name).then((found) => {
        if (found) take(found);
        else {
          listNote = 'this format’s identities change: those of the earlier dump are among them';
          void asked.search(name, value, least).then(take);
        }
      });
    else if (show === 'objects') void asked.search(name, value, least).then(take);
    else if (show === 'roots') void asked.roots(root).then(take);
    else if (show === 'texts') void asked.texts().then((found) => (texts = found));
  });

  function hrefOf(change: Partial<HeapState>): string {
    return `${page.url.pathname}?${writeState(page.url.searchParams, { ...shown, object: selected, ...change })}`;
  }
  const go = (change: Partial<HeapState>): Promise<void> =>
    goto(hrefOf(change), { keepFocus: true, noScroll: true });
  function select(object: number): void {
    selected = object;
    untrack(() => replaceState(hrefOf({ object }), page.state));
  }
  const toClass = (name: string): Promise<void> =>
    go({ show: 'objects', name, value: '', least: 0, added: false });

  const meta = $derived(overview?.meta ?? null);
  const growthOf = $derived(
    new Map((overview?.difference?.classes ?? []).map((growth) => [growth.name, growth]))
  );
  type ClassRow = HeapMeta['classes'][number];
  const classRows = $derived(
    (table?.classes ?? []).filter(
      ({ name, count }) =>
        count > 0 &&
        name
          .toLowerCase()
          .includes(shown.show === 'classes' || shown.show === 'holders' ? shown.name.toLowerCase() : '')
    )
  );
  const since = ({ name, count }: { name: string; count: number }): number => {
    const growth = growthOf.get(name);
    return growth ? growth.after.count - growth.before.count : overview?.difference ? 0 : count;
  };
  const signed = (value: number): string =>
    value > 0 ? `+${formatCount(value)}` : value < 0 ? `−${formatCount(-value)}` : '0';
  const signedBytes = (value: number): string => `${value < 0 ? '−' : '+'}${formatBytes(Math.abs(value))}`;
  /** A constructor bears the name of its class: by that name the functions are found that make its objects. */
  const madeBy = ({ name, package: of }: ClassRow): Action[] =>
    data.allocation && of === 'object'
      ? [
          {
            name: 'Functions that make it',
            href: viewLink(`/profiles/${data.allocation}`, {}, { show: 'leaves', find: name })
          }
        ]
      : [];
  const classColumns = $derived<Column<ClassRow>[]>([
    { key: 'class', title: 'class', width: 220, grows: true, value: ({ name }) => name },
    {
      key: 'objects',
      title: 'objects',
      width: 84,
      right: true,
      value: ({ count }) => count,
      text: ({ count }) => formatCount(count)
    },
    ...(overview?.difference
      ? [
          {
            key: 'since',
            title: 'since',
            about: 'Objects more than in the earlier dump',
            width: 80,
            right: true,
            value: since,
            text: (row: ClassRow) => signed(since(row))
          }
        ]
      : []),
    {
      key: 'shallow',
      title: 'shallow',
      about: 'Bytes of the objects themselves',
      width: 80,
      right: true,
      value: ({ shallowBytes }) => shallowBytes,
      text: ({ shallowBytes }) => formatBytes(shallowBytes)
    },
    {
      key: 'retained',
      title: 'retained',
      about: 'Bytes that would be freed with all of them',
      width: 190,
      value: ({ retainedBytes }) => retainedBytes
    }
  ]);
  const packageColumns: Column<HeapMeta['packages'][number]>[] = [
    {
      key: 'package',
      title: 'package',
      width: 240,
      grows: true,
      value: ({ name }) => name,
      text: ({ name }) => name || '(default package)'
    },
    {
      key: 'objects',
      title: 'objects',
      width: 90,
      right: true,
      value: ({ count }) => count,
      text: ({ count }) => formatCount(count)
    },
    {
      key: 'shallow',
      title: 'shallow',
      width: 90,
      right: true,
      value: ({ shallowBytes }) => shallowBytes,
      text: ({ shallowBytes }) => formatBytes(shallowBytes)
    },
    {
      key: 'retained',
      title: 'retained',
      width: 90,
      right: true,
      value: ({ retainedBytes }) => retainedBytes,
      text: ({ retainedBytes }) => formatBytes(retainedBytes)
    }
  ];
  const growthColumns: Column<ClassGrowth>[] = [
    { key: 'class', title: 'class', width: 230, grows: true, value: ({ name }) => name },
    {
      key: 'before',
      title: 'before',
      width: 84,
      right: true,
      value: ({ before }) => before.count,
      text: ({ before }) => formatCount(before.count)
    },
    {
      key: 'after',
      title: 'after',
      width: 84,
      right: true,
      value: ({ after }) => after.count,
      text: ({ after }) => formatCount(after.count)
    },
    {
      key: 'more',
      title: 'objects',
      about: 'How many more',
      width: 84,
      right: true,
      value: ({ before, after }) => after.count - before.count,
      text: ({ before, after }) => signed(after.count - before.count)
    },
    {
      key: 'shallow',
      title: 'shallow',
      width: 90,
      right: true,
      value: ({ before, after }) => after.shallowBytes - before.shallowBytes,
      text: ({ before, after }) => signedBytes(after.shallowBytes - before.shallowBytes)
    },
    {
      key: 'retained',
      title: 'retained',
      width: 90,
      right: true,
      value: ({ before, after }) => after.retainedBytes - before.retainedBytes,
      text: ({ before, after }) => signedBytes(after.retainedBytes - before.retainedBytes)
    }
  ];
  const textColumns: Column<RepeatedText>[] = [
    { key: 'value', title: 'text', width: 300, grows: true, value: ({ value }) => value },
    {
      key: 'count',
      title: 'copies',
      width: 90,
      right: true,
      value: ({ count }) => count,
      text: ({ count }) => formatCount(count)
    },
    {
      key: 'wasted',
      title: 'wasted',
      about: 'Bytes of all copies but one',
      width: 90,
      right: true,
      value: ({ wastedBytes }) => wastedBytes,
      text: ({ wastedBytes }) => formatBytes(wastedBytes)
    }
  ];

  const againstChoice = $derived<ScopeChoice>({
    shown: against
      ? shortTime((data.earlier.find((one) => one.id === against)?.startedAtUs ?? 0) / 1000, data.nowMs)
      : 'nothing earlier',
    about: 'Against',
    options: [
      { label: 'nothing earlier', value: 'none' },
      ...data.earlier.map(({ id: value, startedAtUs, name }) => ({
        label: dateTime((startedAtUs ?? 0) / 1000),
        detail: name,
        value
      }))
    ],
    value: against || 'none'
  });
  const weakChoice = $derived<ScopeChoice>({
    shown: shown.weak ? 'weak references too' : 'live objects',
    about: 'What keeps alive',
    options: [
      { label: 'live objects', detail: 'weak references do not keep', value: '' },
      { label: 'weak references too', detail: 'as if they kept', value: '1' }
    ],
    value: shown.weak ? '1' : ''
  });
  const isV8 = $derived(item.format === 'v8-heap-snapshot');
  const SHOW_NAMES = $derived<Record<Show, string>>({
    holders: 'Holders',
    classes: 'Classes',
    packages: isV8 ? 'Kinds' : 'Packages',
    objects: 'Objects',
    roots: 'Roots',
    texts: 'Texts',
    growth: 'Growth'
  });
  const shows = $derived(
    (Object.keys(SHOW_NAMES) as Show[]).filter((show) => show !== 'growth' || overview?.difference)
  );
  const rootRows = $derived(
    (meta?.rootKinds ?? [])
      .map((kind, i) => ({ ...kind, count: meta!.rootRecords[i] }))
      .filter(({ count }) => count > 0)
  );

  function exportJson(): void {
    if (table && overview)
      saveText(
        'heap.json',
        JSON.stringify(
          { ...overview.meta, classes: table.classes, packages: table.packages, growth: overview.difference },
          null,
          1
        ),
        'application/json'
      );
  }
  function onkeydown(event: KeyboardEvent): void {
    if ((event.target as HTMLElement).matches('input, select, textarea') || event.metaKey || event.ctrlKey)
      return;
    if (event.key === 's' && searchField) {
      event.preventDefault();
      searchField.focus();
    }
  }
  const aboutWay = $derived.by(() => {
    const last = way?.steps.at(-1);
    return last
      ? `${last.className.slice(last.className.lastIndexOf('.') + 1)} #${wayObject}`
      : `#${wayObject}`;
  });
</script>

<svelte:window {onkeydown} />

<Page>
  {#snippet scope()}
    <span
      >Looking at the <b class="font-semibold text-ink">heap dump</b> of
      <b class="font-semibold text-ink">{item.service || item.name || 'an unnamed process'}</b
      >{#if item.startedAtUs !== null}&nbsp;at
        <b class="num font-semibold text-ink">{shortTime(item.startedAtUs / 1000, data.nowMs)}</b>{/if},
      against</span
    >
    <ScopeMenu choice={againstChoice} onchoose={(value) => void go({ against: value, object: selected })} />
    <span class="-ml-1">,</span>
    <ScopeMenu choice={weakChoice} onchoose={(value) => void go({ weak: value === '1', object: -1 })} />
  {/snippet}

  {#snippet reading()}
    {#if failed}
      <p class="text-alarm" role="alert">{failed}</p>
    {:else if overview && meta}
      {#each overview.findings.slice(0, 1) as finding (finding.rule)}<Sentence
          text={[finding.sentence]}
        />{:else}
        <p class="mb-2">
          No single object, field or thread keeps a fifth of these {formatBytes(meta.liveBytes)}.
        </p>
      {/each}
      {#if overview.difference}
        <p class="mb-2 text-ink-2">
          Against the earlier dump: {formatBytes(overview.difference.liveBefore)} then, {formatBytes(
            overview.difference.liveAfter
          )} now. {overview.difference.matchedBy === 'identity'
            ? `Objects are matched by their identity (${formatShare(overview.difference.known)} were there before).`
            : meta.format === 'hprof'
              ? 'Objects are matched by class and by their place in the tree: a Java machine keeps no identities.'
              : 'Objects are matched by class and by their place in the tree: their numbers do not agree, as in dumps of two processes.'}
        </p>
      {/if}
      {#if selected >= 0}<ObjectPanel {client} object={selected} onselect={select} />{/if}
      {#each overview.findings as finding, i (i)}
        <Finding title={finding.title} severity={finding.severity}>
          {#if i > 0}<p>{finding.sentence}</p>{/if}
          <p class="mt-1 text-ink-2">{finding.remedy}</p>
          {#snippet actions()}
            {#if finding.rule === 'grows-between-dumps' && finding.evidence.className}
              <a
                class="button button-solid"
                href={hrefOf({
                  show: 'objects',
                  name: finding.evidence.className,
                  added: true,
                  value: '',
                  least: 0
                })}>Show what was added</a
              >
            {:else if finding.rule === 'duplicate-strings'}
              <a class="button button-solid" href={hrefOf({ show: 'texts' })}>Show the texts</a>
            {:else if finding.evidence.object !== null}
              <button class="button button-solid" onclick={() => select(finding.evidence.object!)}
                >Show it</button
              >
            {/if}
            <a class="button" href="/findings/{finding.rule}">The rule</a>
          {/snippet}
        </Finding>
      {/each}
      {#if data.allocation}
        <p class="mt-2 text-ink-2">
          Allocations of this process were recorded too: <a
            class="text-steer underline underline-offset-2"
            href={viewLink(`/profiles/${data.allocation}`)}>which functions make the objects</a
          >.
        </p>
      {/if}
      {#each meta.warnings as warning, i (i)}
        <p class="mt-2 text-[11px] text-ink-3">{formatCount(warning.count)}×: {warning.message}</p>
      {/each}
      <p class="mt-2 text-[11px] text-ink-3">
        {meta.format === 'hprof'
          ? 'Sizes are as a 64-bit machine with compressed references lays objects out; the dump itself records ' +
            formatBytes(meta.recordedBytes) +
            ' of content.'
          : 'Sizes are V8’s own.'}
      </p>
    {:else}
      <p class="text-ink-3">The dump is being indexed…</p>
    {/if}
  {/snippet}

  {#if failed}
    <Empty title="This dump cannot be shown">
      <p>{failed}</p>
      <p class="flex gap-2">
        <button class="button button-solid" onclick={() => attempt++}>Try again</button>
        <a class="button" href={viewLink('/heap')}>Other dumps</a>
      </p>
    </Empty>
  {:else if overview && meta && table}
    <div class="flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-rule px-4 py-2 text-ink-2">
      <span
        ><b class="num font-semibold text-ink">{formatBytes(meta.liveBytes)}</b> in
        <b class="num font-semibold text-ink">{formatCount(meta.liveObjects)}</b> objects</span
      >
      <span
        >held from <b class="num font-semibold text-ink"
          >{formatCount(meta.rootRecords.reduce((sum, count) => sum + count, 0))}</b
        > roots</span
      >
      {#if meta.unreachableObjects > 0}<span
          class="text-[11px]"
          title="Nothing but weak references leads to them; they go with the next collection"
          >{formatCount(meta.unreachableObjects)} more are not held</span
        >{/if}
      <span class="ml-auto"
        ><Choices
          label="Group by"
          choices={shows.map((key) => ({
            key,
            name: SHOW_NAMES[key].toLowerCase(),
            href: hrefOf({ show: key, added: false })
          }))}
          value={shown.show}
        /></span
      >
    </div>
    {#if shown.show === 'holders'}
      <h2 class="px-4 pt-2 pb-1 text-[13px]">What holds it</h2>
      <div class="flex h-[34%] min-h-32 flex-col px-0.5">
        <HolderMap
          boxes={overview.boxes}
          whole={meta.liveBytes}
          {selected}
          onselect={select}
          onclass={(name) => void toClass(name)}
        />
      </div>
    {/if}
    {#if way && (shown.show === 'holders' || selected >= 0)}<WayPicture
        {way}
        about={aboutWay}
        onselect={select}
      />{/if}
    {#if shown.show === 'holders' || shown.show === 'classes'}
      <div class="flex min-h-0 flex-1 flex-col border-t border-rule">
        <DataTable
          label="Classes"
          rows={classRows}
          columns={classColumns}
          keyOf={({ name }) => name}
          hrefOf={({ name }) => hrefOf({ show: 'objects', name, value: '', least: 0, added: false })}
          actionsOf={madeBy}
          sort="-retained"
          file="classes"
          rowHeight={27}
        >
          {#snippet head()}
            <h2 class="text-[13px]">Classes</h2>
            <input
              class="w-44 field py-0"
              placeholder="Classes like"
              aria-label="Classes like"
              bind:this={searchField}
              value={shown.name}
              onchange={(event) => void go({ name: event.currentTarget.value })}
            />
            <button class="button border-rule text-ink-2" onclick={exportJson}>JSON</button>
          {/snippet}
          {#snippet cell(row, column)}
            {#if column.key === 'class'}<span
                class="num {row.own ? 'font-semibold' : ''}"
                title={row.own ? 'the program’s own' : undefined}>{row.name}</span
              >
            {:else}<span class="flex items-center gap-2"
                ><i
                  class="h-2.5 bg-pen opacity-70"
                  style:width="{Math.max(1, (row.retainedBytes / Math.max(1, meta.liveBytes)) * 110)}px"
                ></i>
                <span class="num">{formatShare(row.retainedBytes / Math.max(1, meta.liveBytes))}</span></span
              >{/if}
          {/snippet}
        </DataTable>
      </div>
    {:else if shown.show === 'packages'}
      <DataTable
        label="Packages"
        rows={table.packages.filter(({ count }) => count > 0)}
        columns={packageColumns}
        keyOf={({ name }) => name}
        hrefOf={({ name }) => hrefOf({ show: 'classes', name: name === '(primitive)' ? '' : name })}
        sort="-retained"
        file="packages"
      >
        {#snippet head()}<h1 class="text-[13px]">{SHOW_NAMES.packages}</h1>{/snippet}
      </DataTable>
    {:else if shown.show === 'growth' && overview.difference}
      {@const { growthPath, classes } = overview.difference}
      {#if growthPath.length > 0}
        <section class="border-b border-rule px-4 py-2" aria-label="Where it grew">
          <h2 class="mb-1 text-[13px]">Where in the tree it grew</h2>
          <ol class="flex flex-wrap items-center gap-1 num text-[11px]">
            {#each growthPath as step, i (i)}
              {#if i > 0}<li aria-hidden="true" class="text-ink-3">→</li>{/if}
              <li>
                <button
                  class="rounded-[3px] border border-rule bg-sheet px-1.5 py-0.5 text-left hover:bg-pen-soft"
                  onclick={() => select(step.sample)}
                  >{step.className.slice(step.className.lastIndexOf('.') + 1)}{step.after.count > 1
                    ? ` × ${formatCount(step.after.count)}`
                    : ''}<span class="block text-pen"
                    >{signedBytes(step.after.retainedBytes - step.before.retainedBytes)}</span
                  ></button
                >
              </li>
            {/each}
          </ol>
        </section>
      {/if}
      <DataTable
        label="Growth"
        rows={classes}
        columns={growthColumns}
        keyOf={({ name }) => name}
        hrefOf={({ name }) => hrefOf({ show: 'objects', name, added: true, value: '', least: 0 })}
        sort="-shallow"
        file="growth"
      >
        {#snippet head()}<h1 class="text-[13px]">What grew, by class</h1>{/snippet}
        {#snippet cell(row)}<span class="num {row.own ? 'font-semibold' : ''}">{row.name}</span>{/snippet}
      </DataTable>
    {:else if shown.show === 'texts'}
      {#if texts}
        <DataTable
          label="Texts"
          rows={texts}
          columns={textColumns}
          keyOf={({ sample }) => String(sample)}
          hrefOf={({ sample }) => hrefOf({ object: sample })}
          sort="-wasted"
          file="texts"
          empty="No text is in the heap more than once."
        >
          {#snippet head()}<h1 class="text-[13px]">Texts more than once</h1>
            <span class="text-[11px]"
              >{plural(meta.duplicateGroups, 'text')}, {formatBytes(meta.duplicateBytes)} wasted</span
            >{/snippet}
          {#snippet cell(row)}<span class="num">{row.value}</span>{/snippet}
        </DataTable>
      {/if}
    {:else}
      <div class="flex flex-wrap items-center gap-2 border-b border-rule px-4 py-1.5 text-[11px] text-ink-2">
        {#if shown.show === 'objects'}
          <label
            >class <input
              class="w-52 field py-0"
              bind:this={searchField}
              value={shown.name}
              onchange={(event) => void go({ name: event.currentTarget.value, added: false })}
            /></label
          >
          <label
            >text holds <input
              class="w-32 field py-0"
              value={shown.value}
              onchange={(event) => void go({ value: event.currentTarget.value })}
            /></label
          >
          <label
            >retains at least <input
              class="w-20 field py-0"
              inputmode="numeric"
              value={shown.least || ''}
              onchange={(event) => void go({ least: Number(event.currentTarget.value) || 0 })}
            /> bytes</label
          >
          {#if shown.added}<span class="chip"
              >only added since<a href={hrefOf({ added: false })} aria-label="Take back: only added">×</a
              ></span
            >{/if}
        {:else}
          <label
            >kind <select
              class="field py-0"
              value={shown.root}
              onchange={(event) => void go({ root: event.currentTarget.value })}
            >
              <option value="">all</option>
              {#each rootRows as { kind, count } (kind)}<option value={kind}
                  >{kind} ({formatCount(count)})</option
                >{/each}
            </select></label
          >
          {#each rootRows.filter(({ kind }) => kind === shown.root) as { about, kind } (kind)}<span
              >{about}</span
            >{/each}
        {/if}
      </div>
      {#if list}
        <ObjectTable
          title={shown.show === 'roots' ? 'Roots' : shown.name || 'Biggest objects'}
          {list}
          whole={meta.liveBytes}
          hrefOf={(object) => hrefOf({ object })}
          note={listNote}
        />
      {:else}<p class="p-4 text-ink-3" role="status">Looking…</p>{/if}
    {/if}
  {:else}
    <div class="grid h-full place-items-center">
      <div class="w-80 text-center" role="status">
        <p class="mb-2 text-ink-2">
          {building ? `Indexing the dump: ${building.doing}…` : 'Opening the dump…'}
        </p>
        <progress class="h-1.5 w-full" value={building?.part ?? undefined} max="1" aria-label="Indexing"
        ></progress>
        {#if building}<button class="mt-3 button" onclick={() => void client.cancel()}>Cancel</button>{/if}
      </div>
    </div>
  {/if}
</Page>
