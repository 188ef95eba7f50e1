<script lang="ts">
  import { goto, replaceState } from '$app/navigation';
  import { page } from '$app/state';
  import { formatBytes, formatCount, plural } from '@tromix/core/text/format';
  import { untrack } from 'svelte';
  import ClassTable from '$lib/ui/heap/ClassTable.svelte';
  import Growth from '$lib/ui/heap/Growth.svelte';
  import { againstChoice, weakChoice } from '$lib/ui/heap/heap-choices';
  import { PACKAGE_COLUMNS, TEXT_COLUMNS } from '$lib/ui/heap/heap-columns';
  import { readState, writeState, type HeapState, type Show } from '$lib/ui/heap/heap-state';
  import { HeapView } from '$lib/ui/heap/heap-view.svelte';
  import HeapReading from '$lib/ui/heap/HeapReading.svelte';
  import HolderMap from '$lib/ui/heap/HolderMap.svelte';
  import ObjectFilter from '$lib/ui/heap/ObjectFilter.svelte';
  import ObjectTable from '$lib/ui/heap/ObjectTable.svelte';
  import WayPicture from '$lib/ui/heap/WayPicture.svelte';
  import Choices from '$lib/ui/kit/Choices.svelte';
  import Opening from '$lib/ui/kit/Opening.svelte';
  import { shortTime } from '$lib/ui/kit/time';
  import { viewLink } from '$lib/ui/shell/links';
  import Page from '$lib/ui/shell/Page.svelte';
  import ScopeMenu from '$lib/ui/shell/ScopeMenu.svelte';
  import { describeKeys } from '$lib/ui/shell/shell-state.svelte';
  import DataTable from '$lib/ui/tables/DataTable.svelte';
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
  const view = new HeapView({
    get id() {
      return item.id;
    },
    get against() {
      return against;
    },
    get shown() {
      return shown;
    },
    get selected() {
      return selected;
    }
  });
  const { overview, tables, way } = $derived(view);
  let searchField = $state<HTMLInputElement | null>(null);

  function hrefOf(change: Partial<HeapState>): string {
    return `${page.url.pathname}?${writeState(page.url.searchParams, { ...shown, object: selected, ...change })}`;
  }
  const go = (change: Partial<HeapState>): void =>
    void goto(hrefOf(change), { keepFocus: true, noScroll: true });
  function select(object: number): void {
    selected = object;
    untrack(() => replaceState(hrefOf({ object }), page.state));
  }

  const SHOW_NAMES = $derived<Record<Show, string>>({
    holders: 'Holders',
    classes: 'Classes',
    packages: item.format === 'v8-heap-snapshot' ? 'Kinds' : 'Packages',
    objects: 'Objects',
    roots: 'Roots',
    texts: 'Texts',
    growth: 'Growth'
  });
  const shows = $derived(
    (Object.keys(SHOW_NAMES) as Show[]).filter((show) => show !== 'growth' || overview?.difference)
  );
  const aboutWay = $derived.by(() => {
    const last = way?.steps.at(-1);
    const name = last ? `${last.className.slice(last.className.lastIndexOf('.') + 1)} ` : '';
    return `${name}#${view.wayObject}`;
  });

  function onkeydown(event: KeyboardEvent): void {
    if ((event.target as HTMLElement).matches('input, select, textarea') || event.metaKey || event.ctrlKey)
      return;
    if (event.key === 's' && searchField) {
      event.preventDefault();
      searchField.focus();
    }
  }
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
    <ScopeMenu
      choice={againstChoice(data.earlier, against, data.nowMs)}
      onchoose={(value) => go({ against: value, object: selected })}
    />
    <span class="-ml-1">,</span>
    <ScopeMenu
      choice={weakChoice(shown.weak)}
      onchoose={(value) => go({ weak: value === '1', object: -1 })}
    />
  {/snippet}

  {#snippet reading()}
    {#if view.failed}
      <p class="text-alarm" role="alert">{view.failed}</p>
    {:else if overview}
      <HeapReading
        {overview}
        client={view.client}
        {selected}
        allocation={data.allocation}
        {hrefOf}
        onselect={select}
      />
    {:else}
      <p class="text-ink-3">The dump is being indexed…</p>
    {/if}
  {/snippet}

  {#if overview && tables && !view.failed}
    {@const { meta } = overview}
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
          onclass={(name) => go({ show: 'objects', name, value: '', least: 0, added: false })}
        />
      </div>
    {/if}
    {#if way && (shown.show === 'holders' || selected >= 0)}<WayPicture
        {way}
        about={aboutWay}
        onselect={select}
      />{/if}
    {#if shown.show === 'holders' || shown.show === 'classes'}
      <ClassTable
        {overview}
        {tables}
        name={shown.name}
        allocation={data.allocation}
        {hrefOf}
        onname={(name) => go({ name })}
        bind:searchField
      />
    {:else if shown.show === 'packages'}
      <DataTable
        label="Packages"
        rows={tables.packages.filter(({ count }) => count > 0)}
        columns={PACKAGE_COLUMNS}
        keyOf={({ name }) => name}
        hrefOf={({ name }) => hrefOf({ show: 'classes', name: name === '(primitive)' ? '' : name })}
        sort="-retained"
        file="packages"
      >
        {#snippet head()}<h1 class="text-[13px]">{SHOW_NAMES.packages}</h1>{/snippet}
      </DataTable>
    {:else if shown.show === 'growth' && overview.difference}
      <Growth difference={overview.difference} {hrefOf} onselect={select} />
    {:else if shown.show === 'texts'}
      {#if view.texts}
        <DataTable
          label="Texts"
          rows={view.texts}
          columns={TEXT_COLUMNS}
          keyOf={({ sample }) => String(sample)}
          hrefOf={({ sample }) => hrefOf({ object: sample })}
          sort="-wasted"
          file="texts"
          empty="No text is in the heap more than once."
        >
          {#snippet head()}<h1 class="text-[13px]">Duplicate strings</h1>
            <span class="text-[11px]"
              >{plural(meta.duplicateGroups, 'text')}, {formatBytes(meta.duplicateBytes)} wasted</span
            >{/snippet}
          {#snippet cell(row)}<span class="num">{row.value}</span>{/snippet}
        </DataTable>
      {/if}
    {:else}
      <ObjectFilter {meta} {shown} {hrefOf} onchange={go} bind:searchField />
      {#if view.list}
        <ObjectTable
          title={shown.show === 'roots' ? 'Roots' : shown.name || 'Biggest objects'}
          list={view.list}
          whole={meta.liveBytes}
          hrefOf={(object) => hrefOf({ object })}
          note={view.listNote}
        />
      {:else}<p class="p-4 text-ink-3" role="status">Looking…</p>{/if}
    {/if}
  {:else}
    <Opening
      what="dump"
      failed={view.failed}
      doing={view.building}
      onagain={() => view.again()}
      oncancel={() => void view.client.cancel()}
    >
      {#snippet others()}<a class="button" href={viewLink('/heap')}>Other dumps</a>{/snippet}
    </Opening>
  {/if}
</Page>
