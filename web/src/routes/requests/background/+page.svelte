<script lang="ts">
  import Hint from '$lib/ui/kit/Hint.svelte';
  import { words, type Words } from '@tromix/core/text/words';
  import { formatCount, formatDuration, plural } from '@tromix/core/text/format';
  import { NO_PICKS } from '$lib/scope';
  import type { BackgroundRow } from '$lib/server/queries/background';
  import Empty from '$lib/ui/kit/Empty.svelte';
  import Sentence from '$lib/ui/kit/Sentence.svelte';
  import { viewLink } from '$lib/ui/shell/links';
  import Page from '$lib/ui/shell/Page.svelte';
  import ScopeLine from '$lib/ui/shell/ScopeLine.svelte';
  import type { Column } from '$lib/ui/tables/columns';
  import DataTable from '$lib/ui/tables/DataTable.svelte';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();
  const list = $derived(data.background);
  const open = ({ path }: BackgroundRow): string => viewLink(`/requests/${path}`, NO_PICKS);
  const COLUMNS: Column<BackgroundRow>[] = [
    {
      key: 'service',
      title: 'service',
      width: 90,
      value: ({ service }) => service,
      text: ({ service }) => service
    },
    {
      key: 'name',
      title: 'name',
      width: 200,
      grows: true,
      value: ({ name }) => name,
      text: ({ name }) => name
    },
    {
      key: 'count',
      title: 'times',
      width: 72,
      right: true,
      value: ({ count }) => count,
      text: ({ count }) => formatCount(count)
    },
    {
      key: 'calls',
      title: 'calls',
      width: 64,
      right: true,
      value: ({ calls }) => calls,
      text: ({ calls }) => formatCount(calls)
    },
    {
      key: 'failed',
      title: 'failed',
      width: 64,
      right: true,
      value: ({ failed }) => failed,
      text: ({ failed }) => (failed ? formatCount(failed) : '')
    },
    {
      key: 'mean',
      title: 'mean',
      width: 80,
      right: true,
      value: ({ totalNs, count }) => totalNs / count,
      text: ({ totalNs, count }) => formatDuration(totalNs / count)
    },
    {
      key: 'longest',
      title: 'longest',
      width: 80,
      right: true,
      value: ({ longestNs }) => longestNs,
      text: ({ longestNs }) => formatDuration(longestNs)
    },
    {
      key: 'total',
      title: 'in all',
      width: 80,
      right: true,
      value: ({ totalNs }) => totalNs,
      text: ({ totalNs }) => formatDuration(totalNs)
    }
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
