<script lang="ts">
  import { VITAL_FACTS, VITALS, type Vital } from '@tromix/core/pages/vitals';
  import { formatCount, plural } from '@tromix/core/text/format';
  import { APART_BY, NOT_TOLD, PAGE_PARAMS, type ApartBy } from '$lib/page-choices';
  import type { ListedLoad } from '$lib/server/queries/pages/listed-loads';
  import type { ApartRow, OnePage } from '$lib/server/queries/pages/one-page';
  import { screenKeys } from '$lib/ui/frame/keys.svelte';
  import { urlState } from '$lib/ui/frame/url-state.svelte';
  import Choices from '$lib/ui/kit/Choices.svelte';
  import Empty from '$lib/ui/kit/Empty.svelte';
  import ScrollRegion from '$lib/ui/kit/ScrollRegion.svelte';
  import Sentence from '$lib/ui/kit/Sentence.svelte';
  import { exactTime } from '$lib/ui/kit/time';
  import { figureColumns, formatScore, vitalColumns } from '$lib/ui/pages/page-columns';
  import { loadLink, pageLink, visitLink } from '$lib/ui/pages/page-links';
  import PageFindings from '$lib/ui/pages/PageFindings.svelte';
  import PageScope from '$lib/ui/pages/PageScope.svelte';
  import { beforeName, pageReading } from '$lib/ui/pages/pages-reading';
  import VitalCell from '$lib/ui/pages/VitalCell.svelte';
  import VitalOverTime from '$lib/ui/pages/VitalOverTime.svelte';
  import VitalStrip from '$lib/ui/pages/VitalStrip.svelte';
  import Page from '$lib/ui/shell/Page.svelte';
  import { countColumn, durationColumn, shareColumn, textColumn } from '$lib/ui/tables/column-makers';
  import type { Column } from '$lib/ui/tables/columns';
  import DataTable from '$lib/ui/tables/DataTable.svelte';
  import { vitalOffer } from '$lib/ui/watch/offer-of';
  import { watchable } from '$lib/ui/watch/offers.svelte';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();
  screenKeys([
    { keys: '↑ ↓', does: 'choose a row' },
    { keys: 'Enter', does: 'open the load' }
  ]);
  const { page } = $derived(data);
  const address = urlState(PAGE_PARAMS);
  const { shown } = $derived(address);
  const offer = $derived(
    vitalOffer(data.named, shown.vital, {
      device: shown.device,
      connection: shown.connection,
      country: shown.country,
      release: data.scope.release
    })
  );
  watchable(() => offer);
  const isVital = (key: string): key is Vital => (VITALS as readonly string[]).includes(key);
  const apart = $derived(page.apart[shown.by]);
  const BY_NAMES: Record<ApartBy, string> = {
    device: 'device',
    connection: 'connection',
    release: 'release',
    country: 'country'
  };
  const APART_COLUMNS = $derived<Column<ApartRow>[]>([
    textColumn('name', shown.by, ({ name }) => name || NOT_TOLD, { width: 120, grows: true }),
    ...figureColumns<ApartRow>()
  ]);
  const apartLink = ({ name }: ApartRow): string => {
    const value = name || NOT_TOLD;
    return shown.by === 'release'
      ? pageLink(data.id, { release: value })
      : address.href({ [shown.by]: value });
  };
  type Before = OnePage['before'][number];
  const BEFORE_COLUMNS = $derived<Column<Before>[]>([
    textColumn('what', 'on the way to the largest paint', beforeName, { width: 220, grows: true }),
    shareColumn('share', 'in', ({ share }) => share, {
      width: 72,
      about: `Of the ${formatCount(page.lookedAt)} newest loads with a largest paint`
    }),
    durationColumn('mean', 'on average', ({ meanMs }) => meanMs * 1e6, {
      width: 96,
      about: 'Its time on the way, over all those loads'
    })
  ]);
  const LOAD_COLUMNS: Column<ListedLoad>[] = [
    {
      key: 'start',
      title: 'began',
      width: 96,
      grows: true,
      value: ({ startUs }) => startUs,
      text: ({ startUs }) => exactTime(startUs / 1000)
    },
    ...vitalColumns<ListedLoad>((row) => row, 'of this load'),
    {
      key: 'score',
      title: 'score',
      width: 58,
      right: true,
      value: ({ score }) => score,
      text: ({ score }) => formatScore(score)
    },
    textColumn('device', 'device', ({ device }) => device, { width: 74 }),
    textColumn('connection', 'connection', ({ connection }) => connection, { width: 84 }),
    textColumn('release', 'release', ({ release }) => release, { width: 74 }),
    countColumn('errors', 'errors', ({ errors }) => errors, { width: 56 })
  ];
</script>

<Page>
  {#snippet scope()}<PageScope names={data.pageNames} window={data.window} pageId={data.id} />{/snippet}
  {#snippet reading()}
    {#each pageReading(page) as sentence, i (i)}<Sentence text={sentence} />{/each}
    <PageFindings findings={page.findings} lookedAt={page.lookedAt} />
    {#if page.lookedAt > 0 && page.findings.length === 0}<p class="text-ink-3">
        No rule found anything in the {plural(page.lookedAt, 'load')} that were looked at one by one.
      </p>{/if}
  {/snippet}
  {#if page.figures.loads === 0}
    <Empty title="No loads of {data.named.name} in this time range"
      ><p>Try a wider time range, or other devices.</p></Empty
    >
  {:else}
    <ScrollRegion label="Page">
      <div class="flex items-baseline gap-3 px-4 pt-3 pb-1">
        <h1 class="truncate font-mono text-[16px] font-semibold">{data.named.name}</h1>
        <span class="truncate text-ink-2"
          >{data.named.site} · {plural(page.figures.loads, 'load')} · score {formatScore(
            page.figures.score
          )}</span
        >
      </div>
      <div class="grid grid-cols-5 gap-5 border-b border-rule px-4 pt-1 pb-1.5">
        {#each page.vitals as strip (strip.vital)}<VitalStrip {strip} />{/each}
      </div>
      <div class="border-b border-rule bg-sheet px-2 pt-2">
        <div class="px-2 text-ink-2">
          <Choices
            label="over time, at the 75th percentile:"
            choices={VITALS.map((key) => ({
              key,
              name: VITAL_FACTS[key].title,
              href: address.href({ vital: key })
            }))}
            value={shown.vital}
          />
        </div>
        <VitalOverTime
          vital={shown.vital}
          series={page.series}
          binMs={page.binMs}
          fromMs={data.window.fromUs / 1000}
          toMs={data.window.toUs / 1000}
          watch={offer}
        />
      </div>
      <DataTable
        label="Before the largest paint"
        rows={page.before}
        columns={BEFORE_COLUMNS}
        keyOf={({ what, name }) => `${what} ${name}`}
        sort="-mean"
        param="before"
        file="before-the-paint"
        empty="No load of it had a largest paint."
        short
      >
        {#snippet head()}<h2 class="text-[13px] text-ink">What comes before the largest paint</h2>{/snippet}
      </DataTable>
      <DataTable
        label="Loads by {BY_NAMES[shown.by]}"
        rows={apart}
        columns={APART_COLUMNS}
        keyOf={({ name }) => name}
        hrefOf={apartLink}
        sort="-loads"
        param="apart"
        file="loads-by-{shown.by}"
        short
      >
        {#snippet head()}<h2 class="sr-only">Loads apart</h2>
          <Choices
            label="loads by"
            choices={APART_BY.map((key) => ({ key, name: BY_NAMES[key], href: address.href({ by: key }) }))}
            value={shown.by}
          />{/snippet}
        {#snippet cell(row, column)}
          {#if isVital(column.key)}<VitalCell vital={column.key} value={row.p75[column.key]} />{/if}
        {/snippet}
      </DataTable>
      <DataTable
        label="Slowest loads"
        rows={page.slowest}
        columns={LOAD_COLUMNS}
        keyOf={({ traceId }) => traceId}
        hrefOf={({ traceId }) => loadLink(traceId)}
        actionsOf={({ session }) => (session ? [{ name: 'Its visit', href: visitLink(session) }] : [])}
        sort="-lcp"
        param="loads"
        file="slowest-loads"
        short
      >
        {#snippet head()}<h2 class="text-[13px] text-ink">Slowest loads</h2>{/snippet}
        {#snippet cell(row, column)}
          {#if isVital(column.key)}<VitalCell vital={column.key} value={row[column.key]} />{/if}
        {/snippet}
      </DataTable>
    </ScrollRegion>
  {/if}
</Page>
