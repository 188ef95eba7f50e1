<script lang="ts">
  import { findInPage } from '@tromix/core/findings/page-rules';
  import { chainToPaint } from '@tromix/core/pages/chain';
  import { loadRows, type LoadRow } from '@tromix/core/pages/load-rows';
  import { writeHar } from '@tromix/core/pages/write-har';
  import { screenKeys } from '$lib/ui/frame/keys.svelte';
  import { noteChosen, urlState } from '$lib/ui/frame/url-state.svelte';
  import { pinnable } from '$lib/ui/cases/pins.svelte';
  import ExportMenu from '$lib/ui/kit/ExportMenu.svelte';
  import { saveText } from '$lib/ui/kit/save-text';
  import Sentence from '$lib/ui/kit/Sentence.svelte';
  import { exactTime } from '$lib/ui/kit/time';
  import LineFacts from '$lib/ui/pages/LineFacts.svelte';
  import { loadFacts, loadReading, loadTitle } from '$lib/ui/pages/load-reading';
  import { LOAD_PARAMS } from '$lib/ui/pages/load-state';
  import LoadFindings from '$lib/ui/pages/LoadFindings.svelte';
  import LoadTimeline from '$lib/ui/pages/LoadTimeline.svelte';
  import { loadLink, pageLink, visitLink } from '$lib/ui/pages/page-links';
  import PageScope from '$lib/ui/pages/PageScope.svelte';
  import VitalStrip from '$lib/ui/pages/VitalStrip.svelte';
  import { formatVital } from '$lib/ui/pages/vital-words';
  import { VITAL_FACTS, VITALS } from '@tromix/core/pages/vitals';
  import { viewLink } from '$lib/ui/shell/links';
  import Page from '$lib/ui/shell/Page.svelte';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();
  screenKeys([
    { keys: '↑ ↓', does: 'choose a row' },
    { keys: '← →', does: 'fold, unfold' }
  ]);
  const one = $derived(data.one);
  const load = $derived(one.load);
  const chain = $derived(chainToPaint(load));
  const rows = $derived(loadRows(load, chain));
  const findings = $derived(findInPage({ load, chain }));
  const title = $derived(loadTitle(load));

  const rowOf = (of: 'resource' | 'task', index: number): LoadRow | undefined =>
    rows.find((row) => row.of === of && row.members.includes(index));
  const address = urlState(LOAD_PARAMS, () => ({ row: chosen }));
  let chosen: string = $derived((void load.traceId, address.shown.row));
  noteChosen(address);
  /** What most of the way to the paint goes into is chosen at first. */
  const heaviest = $derived.by(() => {
    const sums = new Map<string, number>();
    for (const step of chain) {
      const row = step.of === 'nothing' ? undefined : rowOf(step.of, step.index);
      if (row) sums.set(row.key, (sums.get(row.key) ?? 0) + step.toMs - step.fromMs);
    }
    return [...sums].sort((a, b) => b[1] - a[1])[0]?.[0] ?? rows[0]?.key ?? '';
  });
  const selected = $derived(chosen || heaviest);
  /** The row that is chosen, or that the chosen thing is in. */
  const line = $derived.by(() => {
    const row = rows.find(({ key }) => key === selected);
    if (row) return { row, members: row.members };
    const at = selected.lastIndexOf(' ');
    const parent = rows.find(({ key }) => key === selected.slice(0, at));
    const index = Number(selected.slice(at + 1));
    return parent?.members.includes(index) ? { row: parent, members: [index] } : null;
  });

  pinnable(() => ({
    kind: 'view',
    role: 'noticed',
    title: `${title.figure} ${title.words} of ${load.page}`,
    figures: VITALS.filter((vital) => load.vitals[vital] !== undefined).map((vital) => ({
      name: VITAL_FACTS[vital].title,
      value: formatVital(vital, load.vitals[vital])
    })),
    traces: [load.traceId]
  }));
  const file = $derived(`page-load-${load.traceId.slice(0, 8)}`);
  const exports = $derived([
    {
      name: 'HTTP Archive (HAR 1.2)',
      run: () => saveText(`${file}.har`, writeHar([load], '1'), 'application/json')
    },
    {
      name: 'All that is known of it (JSON)',
      run: () => saveText(`${file}.json`, JSON.stringify(load, null, 1), 'application/json')
    }
  ]);
</script>

<Page>
  {#snippet scope()}<PageScope names={data.pageNames} window={data.window} pageId={one.pageId} />{/snippet}
  {#snippet reading()}
    {#each loadReading(load, chain) as sentence, i (i)}<Sentence text={sentence} />{/each}
    <LoadFindings
      {findings}
      {one}
      onshow={(of, index) => {
        chosen = rowOf(of, index)?.key ?? '';
      }}
    />
    {#if line}<LineFacts {one} row={line.row} members={line.members} />{/if}
    {#if chain.length > 0}<p class="mt-3 text-[11px] text-ink-3">
        The line is the way to the largest paint: backwards from it, what ended last before the next thing
        began. Browsers do not tell what waits for what; it is inferred from their order.
      </p>{/if}
  {/snippet}

  <div class="flex items-baseline gap-3 px-4 pt-3 pb-2 whitespace-nowrap">
    <h1 class="text-[15px] font-semibold">
      <span class="font-mono text-[18px]">{title.figure}</span>
      {title.words}
    </h1>
    <span class="truncate text-ink-2"
      ><a class="underline decoration-dotted" href={pageLink(one.pageId)}>{load.page}</a>, {exactTime(
        load.atUs / 1000
      )}{loadFacts(load) && `, ${loadFacts(load)}`}</span
    >
    <span class="ml-auto flex flex-none gap-1.5">
      {#if load.source === 'visitor' && load.session}<a class="button" href={visitLink(load.session)}
          >Its visit</a
        >{/if}
      <a
        class="button"
        href={viewLink('/compare/loads', {}, { before: load.traceId })}
        title="Against another load">Compare</a
      >
      <ExportMenu {exports} />
      {#if one.slower}<a class="button" href={loadLink(one.slower)}>‹ slower</a>{/if}
      {#if one.faster}<a class="button" href={loadLink(one.faster)}>faster ›</a>{/if}
    </span>
  </div>
  <div class="grid grid-cols-5 gap-5 px-4 pb-1.5">
    {#each one.vitals as strip (strip.vital)}<VitalStrip
        {strip}
        value={load.vitals[strip.vital] ?? null}
      />{/each}
  </div>
  <LoadTimeline
    {load}
    {rows}
    {chain}
    {selected}
    onselect={(key) => {
      chosen = key;
    }}
  />
</Page>
