<script lang="ts">
  import { VITALS, type Vital } from '@tromix/core/pages/vitals';
  import type { PageRow } from '$lib/server/queries/pages/pages';
  import { screenKeys } from '$lib/ui/frame/keys.svelte';
  import Empty from '$lib/ui/kit/Empty.svelte';
  import Sentence from '$lib/ui/kit/Sentence.svelte';
  import { figureColumns } from '$lib/ui/pages/page-columns';
  import PageScope from '$lib/ui/pages/PageScope.svelte';
  import { pageLink } from '$lib/ui/pages/page-links';
  import { pagesReading } from '$lib/ui/pages/pages-reading';
  import TrialLoads from '$lib/ui/pages/TrialLoads.svelte';
  import ScrollRegion from '$lib/ui/kit/ScrollRegion.svelte';
  import SendPages from '$lib/ui/pages/SendPages.svelte';
  import VitalCell from '$lib/ui/pages/VitalCell.svelte';
  import Page from '$lib/ui/shell/Page.svelte';
  import type { Column } from '$lib/ui/tables/columns';
  import DataTable from '$lib/ui/tables/DataTable.svelte';
  import { vitalOffer } from '$lib/ui/watch/offer-of';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();
  screenKeys([
    { keys: '↑ ↓', does: 'choose a page' },
    { keys: 'Enter', does: 'open it' }
  ]);
  const { pages } = $derived(data.list);
  const most = $derived(Math.max(0.01, ...pages.map(({ worth }) => worth)));
  const COLUMNS: Column<PageRow>[] = [
    { key: 'page', title: 'page', width: 184, grows: true, value: ({ name }) => name },
    {
      key: 'worth',
      title: 'worth',
      about: 'Points that the mean score of all loads here would gain if every load of this page were good',
      width: 100,
      right: true,
      value: ({ worth }) => worth
    },
    ...figureColumns<PageRow>()
  ];
  const isVital = (key: string): key is Vital => (VITALS as readonly string[]).includes(key);
</script>

<Page>
  {#snippet scope()}<PageScope names={data.pageNames} window={data.window} />{/snippet}
  {#snippet reading()}
    {#if pages.length > 0}
      {#each pagesReading(data.list) as sentence, i (i)}<Sentence text={sentence} />{/each}
      <p class="text-[11px] text-ink-3">
        Vitals are judged at the 75th percentile of the loads, by the limits that web.dev names (2024). ▲ is
        poor.
      </p>
    {:else}<SendPages />{/if}
  {/snippet}
  {#if pages.length === 0 && data.trials.length === 0}
    <Empty title="No page loads in this time range"><SendPages /></Empty>
  {:else}
    <ScrollRegion label="Pages">
      <DataTable
        label="Pages"
        rows={pages}
        columns={COLUMNS}
        keyOf={({ id }) => String(id)}
        hrefOf={({ id }) => pageLink(id)}
        watchOf={(row) => vitalOffer(row, 'lcp')}
        sort="-worth"
        file="pages"
        empty="No visitor’s load in this time range."
        short
        linkName={({ name, site }) => `${name} ${site}`}
      >
        {#snippet head()}<h1 class="text-[13px] text-ink">Pages</h1>{/snippet}
        {#snippet cell(row, column)}
          {#if column.key === 'page'}
            <span class="block truncate font-mono text-[12px] font-[560]" title={row.name}>{row.name}</span>
            <span class="block truncate text-[11px] text-ink-3">{row.site}</span>
          {:else if column.key === 'worth'}
            <span class="flex items-center justify-end gap-2">
              <span
                class="h-2.5 rounded-[2px] bg-pen"
                style:width="{Math.max(row.worth > 0 ? 1.5 : 0, (row.worth / most) * 44)}px"
                aria-hidden="true"
              ></span><span class="num">{row.worth.toFixed(1)}</span></span
            >
          {:else if isVital(column.key)}<VitalCell vital={column.key} value={row.p75[column.key]} />{/if}
        {/snippet}
      </DataTable>
      {#if data.trials.length > 0}<TrialLoads loads={data.trials} />{/if}
    </ScrollRegion>
  {/if}
</Page>
