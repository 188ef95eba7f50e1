<script lang="ts">
  import { withValue } from '$lib/attribute-condition';
  import { formatCount, formatDuration, formatShare, plural } from '@tromix/core/text/format';
  import { words } from '@tromix/core/text/words';
  import { CALL_GROUPINGS, EXPLORE_FIGURES, EXPLORE_PARAMS, type ExploreFigure } from '$lib/explore-choices';
  import { attributeOf, GROUPINGS } from '$lib/request-choices';
  import type { ExploredGroup } from '$lib/server/explore/explore';
  import { chartOffer, groupOffer } from '$lib/ui/explore/explore-offers';
  import { urlState } from '$lib/ui/frame/url-state.svelte';
  import { screenKeys } from '$lib/ui/frame/keys.svelte';
  import Choices from '$lib/ui/kit/Choices.svelte';
  import Labelled from '$lib/ui/kit/Labelled.svelte';
  import ScrollRegion from '$lib/ui/kit/ScrollRegion.svelte';
  import Sentence from '$lib/ui/kit/Sentence.svelte';
  import Conditions from '$lib/ui/requests/Conditions.svelte';
  import { viewLink } from '$lib/ui/shell/links';
  import NoData from '$lib/ui/shell/NoData.svelte';
  import Page from '$lib/ui/shell/Page.svelte';
  import ScopeLine from '$lib/ui/shell/ScopeLine.svelte';
  import { countColumn, durationColumn, rareColumn, shareColumn } from '$lib/ui/tables/column-makers';
  import type { Column } from '$lib/ui/tables/columns';
  import DataTable from '$lib/ui/tables/DataTable.svelte';
  import FigureChart from '$lib/ui/watch/FigureChart.svelte';
  import { watchable } from '$lib/ui/watch/offers.svelte';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();
  screenKeys([
    { keys: '↑ ↓', does: 'choose a group' },
    { keys: 'Enter', does: 'narrow to it' }
  ]);
  const address = urlState(EXPLORE_PARAMS);
  const { shown } = $derived(address);
  const { explored } = $derived(data);
  const isCalls = $derived(shown.of === 'calls');
  const noun = $derived(isCalls ? 'call' : 'request');
  const drawn = $derived(explored.groups.filter(({ series }) => series !== null));
  const groupName = $derived(attributeOf(explored.grouping) ?? explored.grouping);
  const offer = $derived(chartOffer(shown, explored.grouping, drawn, data.scope));
  watchable(() => offer);

  const FIGURES: Record<ExploreFigure, string> = {
    count: 'count',
    p50: 'median',
    p95: 'p95',
    p99: 'p99',
    mean: 'mean',
    failed: 'failed share'
  };
  const TEXTS: Record<ExploreFigure, (value: number) => string> = {
    count: formatCount,
    p50: formatDuration,
    p95: formatDuration,
    p99: formatDuration,
    mean: formatDuration,
    failed: formatShare
  };
  const attributes = $derived(
    isCalls
      ? explored.attributes.map(({ name, values }) => ({ name, values }))
      : data.attributeNames.map(({ name, values }) => ({ name, values }))
  );
  const groupings = $derived<readonly string[]>(isCalls ? CALL_GROUPINGS : GROUPINGS);

  /** The scope narrowed to one group; null for one that no condition picks. */
  function narrowed({ value }: ExploredGroup): string | null {
    const attribute = attributeOf(explored.grouping);
    if (isCalls || value === '(not set)') return null;
    if (attribute)
      return viewLink('/requests', {
        attributes: withValue(data.scope.attributes, attribute, value)
      });
    return viewLink('/requests', { [explored.grouping]: value });
  }
  const columns = $derived<Column<ExploredGroup>[]>([
    {
      key: 'value',
      title: groupName,
      width: 200,
      grows: true,
      value: ({ value }) => value,
      text: ({ value }) => value
    },
    shareColumn('share', 'of the time', ({ share }) => share, { width: 88 }),
    countColumn('count', `${noun}s`, ({ count }) => count),
    rareColumn('failed', 'failed', ({ failed }) => failed),
    durationColumn('mean', 'mean', ({ meanNs }) => meanNs, { width: 76 }),
    durationColumn('p50', 'median', ({ p50Ns }) => p50Ns, { width: 76 }),
    durationColumn('p95', 'p95', ({ p95Ns }) => p95Ns, { width: 76 }),
    durationColumn('p99', 'p99', ({ p99Ns }) => p99Ns, { width: 76 }),
    durationColumn('slowest', 'slowest', ({ slowestNs }) => slowestNs, { width: 76 })
  ]);
  const [first] = $derived(explored.groups);
</script>

<Page>
  {#snippet scope()}
    <ScopeLine
      which={['endpoint', 'service', 'host', 'release', 'time', 'run', 'slower']}
      window={explored.window}
      lead={isCalls ? 'Calls of' : 'Requests to'}
    />
  {/snippet}
  {#snippet reading()}
    {#if first}
      <Sentence
        text={words`${[plural(explored.count, noun)]} by ${groupName}: ${plural(explored.groups.length + explored.more, 'group')}.`}
      />
      <Sentence
        text={words`${[first.value]} takes ${[formatShare(first.share)]} of their time, ${plural(first.count, noun)} of ${formatDuration(first.p50Ns)} at the median and ${formatDuration(first.p95Ns)} at p95.`}
      />
    {/if}
    <p class="mb-2 text-ink-2">
      {isCalls
        ? `Single calls of the ${explored.isCut ? `newest ${formatCount(explored.requests)} traces here` : plural(explored.requests, 'trace')}: every attribute of a call can be grouped by.`
        : explored.isCut
          ? `The newest ${formatCount(explored.requests)} requests here.`
          : 'All requests here that are kept.'} Figures are exact.
    </p>
    <p class="text-ink-2">
      <kbd class="num">w</kbd> on a row watches its group; the chart goes on a board with all its lines.
    </p>
  {/snippet}
  <div class="flex flex-wrap items-end gap-x-4 gap-y-1.5 border-b border-rule px-4 py-2">
    <h1 class="sr-only">Explore</h1>
    <Labelled label="group"
      ><select
        class="field"
        value={shown.of}
        onchange={({ currentTarget }) =>
          void address.go({ of: currentTarget.value as typeof shown.of, by: '' })}
        ><option value="requests">requests</option><option value="calls">single calls</option></select
      ></Labelled
    >
    <Labelled label="by"
      ><select
        class="max-w-64 field"
        value={explored.grouping}
        onchange={({ currentTarget }) => void address.go({ by: currentTarget.value })}
      >
        {#each groupings as name (name)}<option value={name}>{name}</option>{/each}
        <optgroup label="attributes">
          {#each attributes as { name, values } (name)}<option value="attr:{name}"
              >{name} ({formatCount(values)})</option
            >{/each}
          {#if attributeOf(explored.grouping) && !attributes.some(({ name }) => `attr:${name}` === explored.grouping)}
            <option value={explored.grouping}>{attributeOf(explored.grouping)}</option>
          {/if}
        </optgroup>
      </select></Labelled
    >
    <span class="pb-1 text-ink-2"
      ><Choices
        label="over time"
        value={shown.figure}
        choices={EXPLORE_FIGURES.map((key) => ({
          key,
          name: FIGURES[key],
          href: address.href({ figure: key })
        }))}
      /></span
    >
    <a class="ml-auto button" href={viewLink('/requests')}>List them</a>
  </div>
  {#if !isCalls}
    <div class="px-4 pt-1.5">
      <Conditions scope={data.scope} names={data.attributeNames} group={data.group} failure="" />
    </div>
  {/if}
  {#if explored.count === 0}
    <NoData title={isCalls ? 'No calls match' : 'No requests match'} />
  {:else}
    <ScrollRegion label="Explore">
      <section class="border-b border-rule bg-sheet pt-2" aria-label="{FIGURES[shown.figure]} over time">
        <FigureChart
          lines={drawn.map(({ value, series }) => ({ title: value, values: series! }))}
          text={TEXTS[shown.figure]}
          fromMs={explored.fromMs}
          stepMs={explored.binMs}
          toMs={explored.window.toUs / 1000}
          height={170}
          label="{FIGURES[shown.figure]} of {noun}s by {groupName} over time, {plural(
            drawn.length,
            'group'
          )}."
          file="explore-{shown.figure}"
          watch={offer}
          narrows
        />
      </section>
      <DataTable
        label="Groups"
        rows={explored.groups}
        {columns}
        keyOf={({ value }) => value}
        hrefOf={narrowed}
        watchOf={(row) => groupOffer(shown, explored.grouping, row, data.scope)}
        sort="-share"
        file="explore-{groupName}"
        short
      >
        {#snippet head()}<h2 class="text-[13px] text-ink">
            By {groupName}{explored.more > 0 ? `, the ${explored.groups.length} that take most` : ''}
          </h2>{/snippet}
      </DataTable>
    </ScrollRegion>
  {/if}
</Page>
