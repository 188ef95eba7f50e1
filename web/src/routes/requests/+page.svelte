<script lang="ts">
  import NoData from '$lib/ui/shell/NoData.svelte';
  import { withValue } from '$lib/attribute-condition';
  import { formatCount, plural } from '@tromix/core/text/format';
  import { goto } from '$app/navigation';
  import { attributeOf, DEFAULT_COLUMNS, GROUPINGS, REQUEST_COLUMNS, SORT_NAMES } from '$lib/request-choices';
  import type { RequestGroup, RequestRow } from '$lib/server/queries/requests';
  import { NO_PICKS, type Scope } from '$lib/scope';
  import Choices from '$lib/ui/kit/Choices.svelte';
  import Sentence from '$lib/ui/kit/Sentence.svelte';
  import { failureName } from '$lib/ui/failures/failure-words';
  import OverTime from '$lib/ui/chart/OverTime.svelte';
  import ColumnMenu from '$lib/ui/tables/ColumnMenu.svelte';
  import Conditions from '$lib/ui/requests/Conditions.svelte';
  import {
    ALSO_IN_FILES,
    COLUMNS,
    columnsOf,
    GROUP_COLUMNS,
    knownNames,
    linkNameOf,
    toggledNames
  } from '$lib/ui/requests/request-columns';
  import RequestCell from '$lib/ui/requests/RequestCell.svelte';
  import RequestFigures from '$lib/ui/requests/RequestFigures.svelte';
  import { requestsReading } from '$lib/ui/requests/requests-reading';
  import { copyText, type Action } from '$lib/ui/kit/actions';
  import { choiceLink, viewLink } from '$lib/ui/shell/links';
  import Page from '$lib/ui/shell/Page.svelte';
  import ScopeLine from '$lib/ui/shell/ScopeLine.svelte';
  import { screenKeys } from '$lib/ui/frame/keys.svelte';
  import DataTable from '$lib/ui/tables/DataTable.svelte';
  import { groupOffer } from '$lib/ui/explore/explore-offers';
  import { requestsOffer } from '$lib/ui/watch/offer-of';
  import { watchable } from '$lib/ui/watch/offers.svelte';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();
  const list = $derived(data.requests);
  watchable(() => requestsOffer(data.scope));
  screenKeys([
    { keys: '↑ ↓', does: 'choose a request' },
    { keys: 'Enter', does: 'open it' }
  ]);

  /** The choices of this view as they stand in the URL, with one changed. */
  const DEFAULTS = { sort: 'duration', by: '', cols: DEFAULT_COLUMNS };
  const chosen = (change: Partial<typeof DEFAULTS>): string =>
    choiceLink(
      '/requests',
      { sort: data.sort, by: data.groupBy, cols: data.columns.join(','), ...change },
      DEFAULTS
    );

  const actionsOf = (row: RequestRow): Action[] => [
    { name: 'Its endpoint', href: viewLink('/endpoint', { service: row.service, endpoint: row.endpoint }) },
    {
      name: 'Requests of its endpoint',
      href: viewLink('/requests', { service: row.service, endpoint: row.endpoint })
    },
    { name: 'Requests of its host', href: viewLink('/requests', { host: row.host }) },
    { name: 'Copy the trace id', run: () => copyText(row.traceId) }
  ];
  const open = (row: RequestRow): string => viewLink(`/requests/${row.traceId}/${row.spanId}`, NO_PICKS);
  const openPath = (path: string): string => viewLink(`/requests/${path}`, NO_PICKS);
  const names = $derived(knownNames(data.columns));
  const attributes = $derived(data.attributeNames.map(({ name }) => name));
  const groupName = $derived(attributeOf(data.groupBy) ?? data.groupBy);
  /** The scope narrowed to one group. */
  function narrowed({ value }: RequestGroup): string {
    const attribute = attributeOf(data.groupBy);
    const change: Partial<Scope> = attribute
      ? value === '(not set)'
        ? {}
        : { attributes: withValue(data.scope.attributes, attribute, value) }
      : ({ [data.groupBy]: value } as Partial<Scope>);
    return viewLink('/requests', change, data.sort === 'duration' ? {} : { sort: data.sort });
  }
  const choosable = $derived([
    ...REQUEST_COLUMNS.map((key) => ({ key: key as string, name: COLUMNS[key].title })),
    ...attributes.map((name) => ({ key: `attr:${name}`, name }))
  ]);
  const toggle = (key: string): void =>
    void goto(chosen({ cols: toggledNames(names, key, attributes) }), { keepFocus: true, noScroll: true });
</script>

<Page>
  {#snippet scope()}
    <ScopeLine
      which={['endpoint', 'service', 'host', 'release', 'time', 'run', 'slower']}
      window={list.window}
      lead="Requests to"
    />
  {/snippet}
  {#snippet reading()}
    {#each requestsReading(list, groupName) as sentence, i (i)}<Sentence text={sentence} />{/each}
    {#if list.typical && list.slowest}
      <div class="mb-3 flex flex-wrap gap-1.5">
        <a class="button button-solid" href={openPath(list.typical)}>Open a typical one</a>
        <a class="button" href={openPath(list.slowest)}>Open the slowest</a>
      </div>
    {/if}
    <RequestFigures {list} />
    {#if data.background > 0}
      <p class="mt-2 text-ink-2">
        <a class="underline" href={viewLink('/requests/background')}
          >{plural(data.background, 'root span')} of background work</a
        > is listed separately.
      </p>
    {/if}
  {/snippet}

  <div class="flex flex-none items-baseline px-4 pt-2 pb-1">
    <Conditions
      scope={data.scope}
      names={data.attributeNames}
      group={data.group}
      failure={data.failure ? failureName(data.failure) : ''}
    />
    {#if list.count > 0}<span class="ml-auto pl-4 whitespace-nowrap text-ink-2"
        >{list.rows.length < list.count
          ? `${formatCount(list.rows.length)} of ${formatCount(list.count)} listed`
          : plural(list.count, 'request')}</span
      >{/if}
  </div>
  {#if list.count === 0}
    <NoData title="No requests match" />
  {:else}
    <section class="flex-none border-y border-rule bg-sheet pt-1" aria-label="Requests over time">
      <OverTime
        series={list.series}
        binMs={list.binMs}
        fromMs={list.window.fromUs / 1000}
        toMs={list.window.toUs / 1000}
        watch={requestsOffer(data.scope)}
      />
    </section>
    {#if list.groups}
      <div class="flex max-h-[38%] min-h-0 flex-none flex-col border-b border-rule">
        <DataTable
          label="Requests by {groupName}"
          rows={list.groups}
          columns={GROUP_COLUMNS}
          keyOf={({ value }) => value}
          hrefOf={narrowed}
          watchOf={({ value }) =>
            groupOffer(
              { of: 'requests', by: data.groupBy, figure: 'p95' },
              data.groupBy,
              { value, kind: '' },
              data.scope
            )}
          sort="-share"
          param="group-sort"
          file="requests-by-{groupName}"
          short
        >
          {#snippet head()}<h2 class="text-[13px] text-ink">By {groupName}</h2>{/snippet}
        </DataTable>
      </div>
    {/if}
    <DataTable
      label="Requests"
      kind="request"
      rows={list.rows}
      columns={columnsOf(names)}
      keyOf={({ traceId, spanId }) => `${traceId} ${spanId}`}
      hrefOf={open}
      linkName={linkNameOf}
      {actionsOf}
      sort=""
      param="order"
      file="requests"
      exportAlso={ALSO_IN_FILES}
      columnsChosen
      total={list.count}
      rowHeight={28}
    >
      {#snippet head()}
        <Choices
          label="Sort by"
          choices={Object.entries(SORT_NAMES).map(([key, name]) => ({
            key,
            name,
            href: chosen({ sort: key })
          }))}
          value={data.sort}
        />
        <label class="flex items-baseline gap-1.5 whitespace-nowrap"
          >grouped by
          <select
            class="w-26 field py-0"
            value={data.groupBy}
            onchange={(event) => void goto(chosen({ by: event.currentTarget.value }), { keepFocus: true })}
          >
            <option value="">nothing</option>
            {#each GROUPINGS as name (name)}<option value={name}>{name}</option>{/each}
            {#each data.attributeNames as { name, values } (name)}<option value="attr:{name}"
                >{name} ({values})</option
              >{/each}
          </select></label
        >
        <a
          class="button border-rule text-ink-2"
          href={viewLink('/requests/explore', {}, data.groupBy ? { by: data.groupBy } : {})}>Explore</a
        >
        <ColumnMenu columns={choosable} shown={names} ontoggle={toggle} />
      {/snippet}
      {#snippet cell(row, column)}<RequestCell {row} {column} />{/snippet}
    </DataTable>
  {/if}
</Page>
