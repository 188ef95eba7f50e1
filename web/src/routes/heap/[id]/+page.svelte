<script lang="ts">
  import { goto } from '$app/navigation';
  import { formatBytes, formatCount, plural } from '@tromix/core/text/format';
  import ClassTable from '$lib/ui/heap/ClassTable.svelte';
  import Growth from '$lib/ui/heap/Growth.svelte';
  import { ANY_OTHER, beforeChoice, weakChoice } from '$lib/ui/heap/heap-choices';
  import { PACKAGE_COLUMNS, STRING_COLUMNS } from '$lib/ui/heap/heap-columns';
  import { HEAP_PARAMS, type HeapState, type Show } from '$lib/ui/heap/heap-state';
  import { HeapView } from '$lib/ui/heap/heap-view.svelte';
  import HeapReading from '$lib/ui/heap/HeapReading.svelte';
  import HolderMap from '$lib/ui/heap/HolderMap.svelte';
  import { pathOffer } from '$lib/ui/heap/path-offer';
  import ObjectFilter from '$lib/ui/heap/ObjectFilter.svelte';
  import ObjectTable from '$lib/ui/heap/ObjectTable.svelte';
  import RootPath from '$lib/ui/heap/RootPath.svelte';
  import { urlState } from '$lib/ui/frame/url-state.svelte';
  import Asking from '$lib/ui/frame/Asking.svelte';
  import Choices from '$lib/ui/kit/Choices.svelte';
  import Opening from '$lib/ui/kit/Opening.svelte';
  import { shortTime } from '$lib/ui/kit/time';
  import { pairLink, viewLink } from '$lib/ui/shell/links';
  import { pinnable } from '$lib/ui/cases/pins.svelte';
  import { evidenceName } from '$lib/ui/compare/evidence-name';
  import Page from '$lib/ui/shell/Page.svelte';
  import ScopeMenu from '$lib/ui/shell/ScopeMenu.svelte';
  import { screenKeys } from '$lib/ui/frame/keys.svelte';
  import DataTable from '$lib/ui/tables/DataTable.svelte';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();
  const item = $derived(data.item);
  pinnable(() => ({
    kind: 'heap',
    title: evidenceName(item),
    files: [item.id, ...(before ? [before] : [])],
    ...(path && selected >= 0 && pathOffer(path, aboutPath))
  }));
  screenKeys([
    { keys: 'Tab · Enter', does: 'in the picture: go to a holder, choose it' },
    { keys: 's', does: 'search classes', run: () => searchField?.focus() }
  ]);

  const address = urlState(HEAP_PARAMS, (): Partial<HeapState> => ({ object: selected }));
  const { shown } = $derived(address);
  /** Chosen here until the address says otherwise. */
  let selected: number = $derived(shown.object);
  /** The earlier dump of the same process, unless another was chosen. */
  const before = $derived(
    shown.before === 'none' ? '' : shown.before || (data.inSeries ? (data.earlier.at(-1)?.id ?? '') : '')
  );
  const view = new HeapView({
    get id() {
      return item.id;
    },
    get before() {
      return before;
    },
    get shown() {
      return shown;
    },
    get selected() {
      return selected;
    }
  });
  const { overview, tables } = $derived(view);
  const path = $derived(view.path.value);
  let searchField = $state<HTMLInputElement | null>(null);

  function select(object: number): void {
    selected = object;
    address.note({ object });
  }

  const SHOW_NAMES = $derived<Record<Show, string>>({
    holders: 'Holders',
    classes: 'Classes',
    packages: item.format === 'v8-heap-snapshot' ? 'Kinds' : 'Packages',
    objects: 'Objects',
    roots: 'Roots',
    strings: 'Strings',
    growth: 'Growth'
  });
  const shows = $derived(
    (Object.keys(SHOW_NAMES) as Show[]).filter((show) => show !== 'growth' || overview?.difference)
  );
  const aboutPath = $derived.by(() => {
    const last = path?.steps.at(-1);
    const name = last ? `${last.className.slice(last.className.lastIndexOf('.') + 1)} ` : '';
    return `${name}#${view.pathObject}`;
  });
</script>

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
      choice={beforeChoice(data.earlier, before, data.nowMs)}
      onchoose={(value) =>
        void (value === ANY_OTHER
          ? goto(pairLink('heaps', { after: item.id }))
          : address.go({ before: value, object: selected }))}
    />
    <span class="-ml-1">,</span>
    <ScopeMenu
      choice={weakChoice(shown.weak)}
      onchoose={(value) => void address.go({ weak: value === '1', object: -1 })}
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
        hrefOf={address.href}
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
            href: address.href({ show: key, added: false })
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
          onclass={(name) => void address.go({ show: 'objects', name, value: '', least: 0, added: false })}
        />
      </div>
    {/if}
    {#if path && (shown.show === 'holders' || selected >= 0)}<RootPath
        {path}
        about={aboutPath}
        onselect={select}
      />{/if}
    {#if shown.show === 'holders' && view.path.asking && !path}
      <Asking of={view.path} doing="Looking for the shortest path…" />
    {:else if shown.show === 'holders' || shown.show === 'classes'}
      <ClassTable
        {overview}
        {tables}
        name={shown.name}
        allocation={data.allocation}
        hrefOf={address.href}
        onname={(name) => void address.go({ name })}
        bind:searchField
      />
    {:else if shown.show === 'packages'}
      <DataTable
        label="Packages"
        kind="holder"
        rows={tables.packages.filter(({ count }) => count > 0)}
        columns={PACKAGE_COLUMNS}
        keyOf={({ name }) => name}
        hrefOf={({ name }) => address.href({ show: 'classes', name: name === '(primitive)' ? '' : name })}
        sort="-retained"
        file="packages"
      >
        {#snippet head()}<h1 class="text-[13px]">{SHOW_NAMES.packages}</h1>{/snippet}
      </DataTable>
    {:else if shown.show === 'growth' && overview.difference}
      <Growth difference={overview.difference} hrefOf={address.href} onselect={select} />
    {:else if shown.show === 'strings'}
      {#if view.strings.value}
        <DataTable
          label="Strings"
          kind="holder"
          rows={view.strings.value}
          columns={STRING_COLUMNS}
          keyOf={({ sample }) => String(sample)}
          hrefOf={({ sample }) => address.href({ object: sample })}
          sort="-wasted"
          file="strings"
          empty="No text is in the heap more than once."
        >
          {#snippet head()}<h1 class="text-[13px]">Duplicate strings</h1>
            <span class="text-[11px]"
              >{plural(meta.duplicateGroups, 'text')}, {formatBytes(meta.duplicateBytes)} wasted</span
            >{/snippet}
          {#snippet cell(row)}<span class="num">{row.value}</span>{/snippet}
        </DataTable>
      {:else}<Asking of={view.strings} />{/if}
    {:else}
      <ObjectFilter {meta} {shown} hrefOf={address.href} onchange={address.go} bind:searchField />
      {#if view.objects.value}
        <ObjectTable
          title={shown.show === 'roots' ? 'Roots' : shown.name || 'Biggest objects'}
          list={view.objects.value.list}
          whole={meta.liveBytes}
          hrefOf={(object) => address.href({ object })}
          note={view.objects.value.note}
        />
      {:else}<Asking of={view.objects} />{/if}
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
