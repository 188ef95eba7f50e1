<script lang="ts">
  import { DropdownMenu } from 'bits-ui';
  import CheckIcon from '@lucide/svelte/icons/check';
  import { apdexRating, SMALL_GROUP } from '@tromix/core/stats/apdex';
  import { formatCount, formatDuration, formatShare, plural } from '@tromix/core/text/format';
  import { goto } from '$app/navigation';
  import { attributeOf, DEFAULT_COLUMNS, GROUPINGS, REQUEST_COLUMNS, SORT_NAMES } from '$lib/request-choices';
  import type { RequestGroup, RequestRow } from '$lib/server/queries/requests';
  import { NO_PICKS, type Scope } from '$lib/scope';
  import Choices from '$lib/ui/kit/Choices.svelte';
  import Empty from '$lib/ui/kit/Empty.svelte';
  import LedgerBar from '$lib/ui/ledger/LedgerBar.svelte';
  import SendTraces from '$lib/ui/shell/SendTraces.svelte';
  import Sentence from '$lib/ui/kit/Sentence.svelte';
  import { exactTime } from '$lib/ui/kit/time';
  import OverTime from '$lib/ui/chart/OverTime.svelte';
  import Conditions from '$lib/ui/requests/Conditions.svelte';
  import { copyText, type Action } from '$lib/ui/kit/actions';
  import { choiceLink, viewLink } from '$lib/ui/shell/links';
  import Page from '$lib/ui/shell/Page.svelte';
  import ScopeLine from '$lib/ui/shell/ScopeLine.svelte';
  import { scopeParts } from '$lib/ui/shell/scope-parts';
  import { describeKeys } from '$lib/ui/shell/shell-state.svelte';
  import type { Column } from '$lib/ui/tables/columns';
  import DataTable from '$lib/ui/tables/DataTable.svelte';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();
  const list = $derived(data.requests);
  describeKeys([
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
  const withFindings = $derived(list.rows.filter(({ findings }) => findings > 0).length);

  const sentences = $derived.by(() => {
    if (list.count === 0) return ['Nothing matches this sentence.'];
    const lines = [
      `*${plural(list.count, 'request')}* match. Half of them take longer than *${formatDuration(list.p50Ns)}*, one in twenty longer than *${formatDuration(list.p95Ns)}*.`
    ];
    if (withFindings > 0)
      lines.push(
        `*${formatCount(withFindings)}* of ${list.rows.length === list.count ? 'them' : `the ${formatCount(list.rows.length)} listed`} have findings.`
      );
    if (list.failed > 0)
      lines.push(`*${formatCount(list.failed)}* failed (${formatShare(list.failed / list.count)}).`);
    const [first] = list.groups ?? [];
    if (first && list.groups!.length > 1)
      lines.push(
        `By ${groupName}, *${first.value || '(none)'}* takes most of the time: *${formatShare(first.share)}* with ${plural(first.count, 'request')}.`
      );
    if (list.counted !== null && list.counted > list.count)
      lines.push(
        `${formatCount(list.counted)} were counted in this scope; the others were not kept in full.`
      );
    return lines;
  });

  /** The columns of the list by their names. Those without a text are drawn by the cell below. */
  const COLUMNS: Record<string, Column<RequestRow>> = Object.fromEntries(
    (
      [
        {
          key: 'at',
          title: 'at',
          width: 116,
          value: (row) => new Date(row.startUs / 1000).toISOString()
        },
        {
          key: 'service',
          title: 'service',
          width: 80,
          value: (row) => row.service,
          text: (row) => row.service
        },
        { key: 'endpoint', title: 'endpoint', width: 130, grows: true, value: (row) => row.endpoint },
        { key: 'host', title: 'host', width: 64, value: (row) => row.host, text: (row) => row.host },
        { key: 'release', title: 'release', width: 62, value: (row) => row.release },
        {
          key: 'calls',
          title: 'calls',
          width: 56,
          right: true,
          value: (row) => row.calls,
          text: (row) => formatCount(row.calls)
        },
        {
          key: 'spans',
          title: 'spans',
          width: 56,
          right: true,
          value: (row) => row.spans,
          text: (row) => formatCount(row.spans)
        },
        { key: 'findings', title: 'findings', width: 72, right: true, value: (row) => row.findings },
        { key: 'ledger', title: 'where it goes', about: 'Ledger of the request', width: 102 },
        { key: 'duration', title: 'duration', width: 88, right: true, value: (row) => row.durationNs }
      ] satisfies Column<RequestRow>[] as Column<RequestRow>[]
    ).map((column) => [column.key, column])
  );
  /** What a file tells besides. */
  const ALSO: Column<RequestRow>[] = [
    { key: 'ledger', title: 'ledger', width: 0, value: (row) => JSON.stringify(row.ledger) },
    { key: 'failed', title: 'failed', width: 0, value: (row) => (row.failed ? 1 : 0) },
    { key: 'traceId', title: 'trace', width: 0, value: (row) => row.traceId },
    { key: 'spanId', title: 'span', width: 0, value: (row) => row.spanId }
  ];
  const names = $derived(data.columns.filter((name) => Object.hasOwn(COLUMNS, name) || attributeOf(name)));
  const columns = $derived.by(() => {
    const attributes = names.map(attributeOf).filter((name) => name !== null);
    return names.map((name): Column<RequestRow> => {
      const attribute = attributeOf(name);
      if (attribute === null) return COLUMNS[name];
      const value = (row: RequestRow): string => row.attributes[attributes.indexOf(attribute)];
      return { key: name, title: attribute, width: 96, value };
    });
  });

  const groupName = $derived(attributeOf(data.groupBy) ?? data.groupBy);
  const GROUP_COLUMNS: Column<RequestGroup>[] = [
    {
      key: 'value',
      title: 'value',
      width: 140,
      grows: true,
      value: ({ value }) => value,
      text: ({ value }) => value || '(none)'
    },
    {
      key: 'count',
      title: 'requests',
      width: 82,
      right: true,
      value: ({ count }) => count,
      text: ({ count }) => formatCount(count)
    },
    {
      key: 'share',
      title: 'of the time',
      width: 92,
      right: true,
      value: ({ share }) => share,
      text: ({ share }) => formatShare(share)
    },
    {
      key: 'failed',
      title: 'failed',
      width: 66,
      right: true,
      value: ({ failed }) => failed,
      text: ({ failed }) => (failed ? formatCount(failed) : '')
    },
    {
      key: 'mean',
      title: 'mean',
      width: 72,
      right: true,
      value: ({ meanNs }) => meanNs,
      text: ({ meanNs }) => formatDuration(meanNs)
    },
    {
      key: 'p50',
      title: 'median',
      width: 72,
      right: true,
      value: ({ p50Ns }) => p50Ns,
      text: ({ p50Ns }) => formatDuration(p50Ns)
    },
    {
      key: 'p95',
      title: 'p95',
      width: 72,
      right: true,
      value: ({ p95Ns }) => p95Ns,
      text: ({ p95Ns }) => formatDuration(p95Ns)
    },
    {
      key: 'p99',
      title: 'p99',
      width: 72,
      right: true,
      value: ({ p99Ns }) => p99Ns,
      text: ({ p99Ns }) => formatDuration(p99Ns)
    }
  ];
  /** The scope narrowed to one group. */
  function narrowed({ value }: RequestGroup): string {
    const attribute = attributeOf(data.groupBy);
    const change: Partial<Scope> = attribute
      ? value === '(not set)'
        ? {}
        : {
            attributes: [
              ...data.scope.attributes.filter((pair) => !pair.startsWith(`${attribute}=`)),
              `${attribute}=${value}`
            ]
          }
      : ({ [data.groupBy]: value } as Partial<Scope>);
    return viewLink('/requests', change, data.sort === 'duration' ? {} : { sort: data.sort });
  }
  const toggled = (name: string): string => {
    const all = [...REQUEST_COLUMNS, ...data.attributeNames.map((one) => `attr:${one.name}`)] as string[];
    const next = names.includes(name) ? names.filter((one) => one !== name) : [...names, name];
    return all.filter((one) => next.includes(one)).join(',') || 'endpoint';
  };
</script>

<Page>
  {#snippet scope()}
    <ScopeLine
      parts={scopeParts(
        ['endpoint', 'service', 'host', 'release', 'time', 'slower'],
        data.scope,
        data.names,
        list.window,
        data.nowMs
      )}
    />
  {/snippet}
  {#snippet reading()}
    {#each sentences as sentence, i (i)}<Sentence text={sentence} />{/each}
    {#if list.typical && list.slowest}
      <div class="mb-3 flex flex-wrap gap-1.5">
        <a class="button button-solid" href={openPath(list.typical)}>Open a typical one</a>
        <a class="button" href={openPath(list.slowest)}>Open the slowest</a>
      </div>
    {/if}
    <h3 class="mt-3 mb-1 heading">All that match</h3>
    <table class="w-full num">
      <tbody>
        {#each [['requests', formatCount(list.count)], ['failed', formatCount(list.failed)], ['median', formatDuration(list.p50Ns)], ['p95', formatDuration(list.p95Ns)], ['p99', formatDuration(list.p99Ns)]] as [name, value] (name)}
          <tr class="border-b border-grid"
            ><th scope="row" class="py-1 text-left font-normal">{name}</th><td class="text-right">{value}</td
            ></tr
          >
        {/each}
        <tr>
          <th scope="row" class="py-1 text-left font-normal">Apdex</th>
          <td class="text-right"
            >{list.count ? `${list.apdex.score.toFixed(2)} ${apdexRating(list.apdex.score)}` : '–'}</td
          >
        </tr>
      </tbody>
    </table>
    {#if data.background > 0}
      <p class="mt-2 text-ink-2">
        <a class="underline" href={viewLink('/requests/background')}
          >{plural(data.background, 'root span')} of background work</a
        > not among them.
      </p>
    {/if}
    <p class="mt-1 text-[11px] text-ink-3">
      Percentiles are exact, by linear interpolation; the Apdex by each endpoint’s T.{list.count > 0 &&
      list.count < SMALL_GROUP
        ? ` Fewer than ${SMALL_GROUP} samples: take the Apdex with care.`
        : ''}
    </p>
  {/snippet}

  <div class="flex flex-none items-baseline px-4 pt-2 pb-1">
    <Conditions scope={data.scope} names={data.attributeNames} group={data.group} />
    {#if list.count > 0}<span class="ml-auto pl-4 whitespace-nowrap text-ink-2"
        >{list.rows.length < list.count
          ? `${formatCount(list.rows.length)} of ${formatCount(list.count)} listed`
          : plural(list.count, 'request')}</span
      >{/if}
  </div>
  {#if list.count === 0}
    <Empty title="No request matches">
      {#if data.names.services.length > 0}
        <p>Widen the sentence above: another time, another endpoint, or fewer conditions.</p>
        <a
          class="button button-solid"
          href={viewLink('/requests', {
            ...NO_PICKS,
            service: '',
            endpoint: '',
            host: '',
            release: '',
            from: undefined,
            to: undefined,
            last: '24h'
          })}>All requests of the last 24 hours</a
        >
      {:else}
        <SendTraces />
      {/if}
    </Empty>
  {:else}
    <section class="flex-none border-y border-rule bg-sheet pt-1" aria-label="Requests over time">
      <OverTime
        series={list.series}
        binMs={list.binMs}
        fromMs={list.window.fromUs / 1000}
        toMs={list.window.toUs / 1000}
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
      rows={list.rows}
      {columns}
      keyOf={({ traceId, spanId }) => `${traceId} ${spanId}`}
      hrefOf={open}
      linkName={(row) =>
        `${exactTime(row.startUs / 1000)} ${row.service} ${row.endpoint} ${formatDuration(row.durationNs)}${row.failed ? ' failed' : ''}`}
      {actionsOf}
      sort=""
      param="order"
      file="requests"
      exportAlso={ALSO}
      rowHeight={28}
    >
      {#snippet head()}
        <Choices
          label="First the"
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
        <DropdownMenu.Root>
          <DropdownMenu.Trigger class="button border-rule text-ink-2">Columns</DropdownMenu.Trigger>
          <DropdownMenu.Portal>
            <DropdownMenu.Content
              class="pop max-h-[60vh] min-w-48 overflow-y-auto py-1"
              align="end"
              sideOffset={4}
            >
              {#each [...REQUEST_COLUMNS.map( (key) => ({ key: key as string, name: COLUMNS[key].title }) ), ...data.attributeNames.map( (one) => ({ key: `attr:${one.name}`, name: one.name }) )] as { key, name } (key)}
                <DropdownMenu.CheckboxItem
                  checked={names.includes(key)}
                  closeOnSelect={false}
                  onCheckedChange={() =>
                    void goto(chosen({ cols: toggled(key) }), { keepFocus: true, noScroll: true })}
                  class="flex items-center gap-2 py-1 pr-4 pl-2 text-ink data-[highlighted]:bg-steer-soft"
                >
                  {#snippet children({ checked })}
                    <span class="w-3.5"
                      >{#if checked}<CheckIcon size={13} />{/if}</span
                    >
                    {name}
                  {/snippet}
                </DropdownMenu.CheckboxItem>
              {/each}
            </DropdownMenu.Content>
          </DropdownMenu.Portal>
        </DropdownMenu.Root>
      {/snippet}
      {#snippet cell(row, column)}
        {#if column.key === 'endpoint'}
          <span class="font-[560]"
            >{#if row.failed}<span class="text-alarm" title="failed"
                >✕<span class="sr-only">failed</span></span
              >
            {/if}{row.endpoint}</span
          >
        {:else if column.key === 'findings'}
          {#if row.findings > 0}<span class="text-pen" aria-hidden="true">◆</span> {row.findings}{/if}
        {:else if column.key === 'ledger'}
          <LedgerBar ledger={row.ledger} width={84} />
        {:else if column.key === 'duration'}
          <b class="font-semibold">{formatDuration(row.durationNs)}</b>
        {:else}
          {@const value = column.key === 'at' ? exactTime(row.startUs / 1000) : column.value!(row)}
          <span class="num text-ink-2" title={String(value)}>{value}</span>
        {/if}
      {/snippet}
    </DataTable>
  {/if}
</Page>
