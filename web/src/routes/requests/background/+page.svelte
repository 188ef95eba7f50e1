<script lang="ts">
  import Hint from '$lib/ui/kit/Hint.svelte';
  import { words, type Words } from '@tromix/core/text/words';
  import { plural } from '@tromix/core/text/format';
  import { NO_PICKS } from '$lib/scope';
  import type { BackgroundRow } from '$lib/server/queries/background';
  import Empty from '$lib/ui/kit/Empty.svelte';
  import Sentence from '$lib/ui/kit/Sentence.svelte';
  import { viewLink } from '$lib/ui/shell/links';
  import Page from '$lib/ui/shell/Page.svelte';
  import ScopeLine from '$lib/ui/shell/ScopeLine.svelte';
  import { countColumn, durationColumn, rareColumn, textColumn } from '$lib/ui/tables/column-makers';
  import type { Column } from '$lib/ui/tables/columns';
  import DataTable from '$lib/ui/tables/DataTable.svelte';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();
  const list = $derived(data.background);
  const open = ({ path }: BackgroundRow): string => viewLink(`/requests/${path}`, NO_PICKS);
  const COLUMNS: Column<BackgroundRow>[] = [
    textColumn('service', 'service', ({ service }) => service, { width: 90 }),
    textColumn('name', 'name', ({ name }) => name, { width: 200, grows: true }),
    countColumn('count', 'times', ({ count }) => count, { width: 72 }),
    countColumn('calls', 'calls', ({ calls }) => calls, { width: 64 }),
    rareColumn('failed', 'failed', ({ failed }) => failed),
    durationColumn('mean', 'mean', ({ totalNs, count }) => totalNs / count),
    durationColumn('longest', 'longest', ({ longestNs }) => longestNs),
    durationColumn('total', 'in all', ({ totalNs }) => totalNs)
  ];
  const sentences = $derived<Words[]>(
    list.rows.length === 0
      ? [['No background work in this time range.']]
      : [
          words`${[plural(list.count, 'root span')]} that serve no caller: timers, file reads at start, name look-ups. Most of the time went into ${[list.rows[0].name]} of ${list.rows[0].service}.`,
          ['No rate, percentile, Apdex or share includes them. The newest 20\u202f000 are kept.']
        ]
  );
</script>

<Page>
  {#snippet scope()}
    <ScopeLine which={['service', 'host', 'release', 'time']} window={list.window} />
  {/snippet}
  {#snippet reading()}
    {#each sentences as sentence, i (i)}<Sentence text={sentence} />{/each}
    <a class="button" href={viewLink('/requests')}>Requests</a>
  {/snippet}
  {#if list.rows.length === 0}
    <Empty title="No background work">
      <p>Root spans of other kinds than SERVER and CONSUMER are listed here, apart from requests.</p>
    </Empty>
  {:else}
    <DataTable
      label="Background work"
      rows={list.rows}
      columns={COLUMNS}
      keyOf={({ path }) => path}
      hrefOf={open}
      linkName={({ service, name }) => `${service} ${name}, the longest`}
      sort="-total"
      param="order"
      file="background-work"
    >
      {#snippet head()}<h2 class="text-[13px] text-ink"><Hint of="background" /></h2>{/snippet}
    </DataTable>
  {/if}
</Page>
