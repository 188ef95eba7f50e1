<script lang="ts">
  import type { FailureGroup } from '$lib/server/queries/failures';
  import { failureName, failurePlace, listReading, stateWords } from '$lib/ui/failures/failure-words';
  import { FAILURES_PARAMS, HANDLED, KIND_NAMES, SHOWS } from '$lib/ui/failures/failures-state';
  import FailuresOverTime from '$lib/ui/failures/FailuresOverTime.svelte';
  import { screenKeys } from '$lib/ui/frame/keys.svelte';
  import { urlState } from '$lib/ui/frame/url-state.svelte';
  import Choices from '$lib/ui/kit/Choices.svelte';
  import Sentence from '$lib/ui/kit/Sentence.svelte';
  import { dateTime } from '$lib/ui/kit/time';
  import { viewLink } from '$lib/ui/shell/links';
  import NoData from '$lib/ui/shell/NoData.svelte';
  import Page from '$lib/ui/shell/Page.svelte';
  import ScopeLine from '$lib/ui/shell/ScopeLine.svelte';
  import { countColumn, rareColumn } from '$lib/ui/tables/column-makers';
  import type { Column } from '$lib/ui/tables/columns';
  import DataTable from '$lib/ui/tables/DataTable.svelte';
  import { failuresOffer } from '$lib/ui/watch/offer-of';
  import { watchable } from '$lib/ui/watch/offers.svelte';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();
  const list = $derived(data.failures);
  watchable(() => failuresOffer(data.scope));
  screenKeys([
    { keys: '↑ ↓', does: 'choose a failure' },
    { keys: 'Enter', does: 'open it' }
  ]);
  const address = urlState(FAILURES_PARAMS);
  const { shown } = $derived(address);
  const choicesOf = <K extends string>(
    names: Record<K, string>,
    hrefOf: (key: K) => string
  ): { key: K; name: string; href: string }[] =>
    (Object.keys(names) as K[]).map((key) => ({ key, name: names[key], href: hrefOf(key) }));
  const rows = $derived(
    list.groups.filter(
      ({ state: { state } }) =>
        shown.show === 'all' || state === shown.show || (shown.show === 'open' && state === 'back')
    )
  );
  const COLUMNS: Column<FailureGroup>[] = [
    {
      key: 'failure',
      title: 'failure, and where',
      about:
        'Type and message; the innermost function of the program’s own code, without one the endpoint, or what was called',
      width: 260,
      grows: true,
      value: failureName
    },
    countColumn('times', 'times', ({ times }) => times, { width: 58, about: 'How often it happened' }),
    countColumn('requests', 'requests', ({ requests }) => requests, {
      width: 70,
      about: 'Requests it happened in'
    }),
    rareColumn('people', 'people', ({ people }) => people, {
      width: 56,
      about: 'Users or sessions that the kept requests name'
    }),
    rareColumn('starts', 'starts', ({ starts }) => starts, {
      width: 52,
      about: 'How often it starts here rather than passes another failure on'
    }),
    rareColumn('seen', 'seen', ({ seen }) => seen, {
      width: 48,
      about: 'How often the outermost request failed of it; the others were caught, or nobody waited'
    }),
    { key: 'series', title: 'over time', width: 108 },
    {
      key: 'first',
      title: 'first seen',
      width: 104,
      value: ({ firstMs }) => firstMs,
      text: ({ firstMs }) => dateTime(firstMs)
    }
  ];
  const ALSO_IN_FILES: Column<FailureGroup>[] = [
    { key: 'lastMs', title: 'last seen', width: 0, value: ({ lastMs }) => lastMs },
    { key: 'where', title: 'where', width: 0, value: failurePlace },
    { key: 'type', title: 'type', width: 0, value: ({ type }) => type }
  ];
  const pathOf = (series: readonly number[]): string => {
    const most = Math.max(1, ...series);
    return series
      .map((count, i) =>
        count > 0 ? `M${((i + 0.5) / series.length) * 92} 14v${-Math.max(1, (count / most) * 13)}` : ''
      )
      .join('');
  };
</script>

<Page>
  {#snippet scope()}
    <ScopeLine which={['endpoint', 'service', 'host', 'release', 'time', 'run']} window={data.window} />
  {/snippet}
  {#snippet reading()}
    {#each listReading(list) as sentence, i (i)}<Sentence text={sentence} />{/each}
    <p class="text-[11px] text-ink-3">
      A failure is an exception that a span tells of, or a span that failed without one. Those of one type,
      one message but for its values, and one innermost function of the program’s own code are one.
    </p>
  {/snippet}

  <div class="flex flex-wrap items-baseline gap-x-4 gap-y-1 px-4 pt-2 pb-1 text-ink-2">
    <Choices
      label="of kind"
      choices={choicesOf(KIND_NAMES, (kind) => address.href({ kind }))}
      value={shown.kind}
    />
    <Choices
      label="show"
      choices={choicesOf(HANDLED, (handled) => address.href({ handled }))}
      value={shown.handled}
    />
  </div>
  {#if list.count === 0 && shown.kind === 'any' && shown.handled === 'any'}
    <NoData title="No failures in this time range"><p>Nothing that was recorded here failed.</p></NoData>
  {:else}
    <div class="border-b border-rule bg-sheet px-2 pt-2">
      <FailuresOverTime
        parts={list.groups.map((group) => ({ name: failureName(group), series: group.series }))}
        fromMs={list.fromMs}
        binMs={list.binMs}
        toMs={data.window.toUs / 1000}
        flags={data.flags}
        file="failures-over-time"
        watch={failuresOffer(data.scope)}
      />
    </div>
    <DataTable
      label="Failures"
      {rows}
      columns={COLUMNS}
      keyOf={({ id }) => String(id)}
      hrefOf={({ id }) => viewLink(`/failures/${id}`)}
      actionsOf={({ id }) => [{ name: 'Its requests', href: viewLink('/requests', { failure: id }) }]}
      watchOf={(row) => failuresOffer(data.scope, row)}
      sort="-times"
      exportAlso={ALSO_IN_FILES}
      empty="No failure of this time is like that."
      file="failures"
      rowHeight={42}
      linkName={(row) => `${failureName(row)} ${failurePlace(row)}`}
    >
      {#snippet head()}<h1 class="text-[13px] text-ink">
          {list.groups.length < list.count
            ? `${list.groups.length} of ${list.count} kinds of failures`
            : 'Failures'}
        </h1>
        <Choices
          label=""
          choices={choicesOf(SHOWS, (show) => address.href({ show }))}
          value={shown.show}
        />{/snippet}
      {#snippet cell(row, column)}
        {#if column.key === 'failure'}
          <span class="block truncate font-[560]" title={failureName(row)}>{failureName(row)}</span>
          <span class="block truncate num text-[11px] text-ink-3" title={failurePlace(row)}
            >{#if row.mark}<b class={row.state.state === 'back' ? 'text-alarm' : 'text-ink-2'}
                >{stateWords(row)}</b
              >&nbsp;·&nbsp;{/if}{failurePlace(row)}</span
          >
        {:else if column.key === 'series'}
          <svg width="92" height="15" viewBox="0 0 92 15" role="img" aria-label="Over time"
            ><path d="M0 14.5H92" stroke="var(--rule)" /><path
              d={pathOf(row.series)}
              stroke="var(--alarm)"
              stroke-width={Math.max(0.8, 80 / row.series.length)}
            /></svg
          >
        {/if}
      {/snippet}
    </DataTable>
  {/if}
</Page>
