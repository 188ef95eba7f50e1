<script lang="ts">
  import { DropdownMenu } from 'bits-ui';
  import CheckIcon from '@lucide/svelte/icons/check';
  import { createVirtualizer } from '@tanstack/svelte-virtual';
  import { apdexRating, SMALL_GROUP } from '@tromix/core/stats/apdex';
  import { formatCount, formatDuration, formatShare, plural } from '@tromix/core/text/format';
  import { goto } from '$app/navigation';
  import { attributeOf, DEFAULT_COLUMNS, GROUPINGS, REQUEST_COLUMNS, SORT_NAMES } from '$lib/request-choices';
  import type { RequestGroup, RequestRow } from '$lib/server/queries/requests';
  import { NO_PICKS, type Scope } from '$lib/scope';
  import { saveText, toCsv } from '$lib/ui/kit/csv';
  import Choices from '$lib/ui/kit/Choices.svelte';
  import Empty from '$lib/ui/kit/Empty.svelte';
  import LedgerBar from '$lib/ui/kit/LedgerBar.svelte';
  import SendTraces from '$lib/ui/kit/SendTraces.svelte';
  import Sentence from '$lib/ui/kit/Sentence.svelte';
  import { exactTime } from '$lib/ui/kit/time';
  import OverTime from '$lib/ui/latency/OverTime.svelte';
  import Conditions from '$lib/ui/search/Conditions.svelte';
  import ActionMenu from '$lib/ui/kit/ActionMenu.svelte';
  import { copyText, linkActions } from '$lib/ui/kit/actions';
  import MoreButton from '$lib/ui/kit/MoreButton.svelte';
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

  const ROW = 28;
  let scroller = $state<HTMLDivElement | null>(null);
  let focused = $state(0);
  const virtualizer = $derived.by(() => {
    // Read here, so that the list is laid out once its element is there.
    const element = scroller;
    return createVirtualizer({
      count: list.rows.length,
      getScrollElement: () => element,
      estimateSize: () => ROW,
      overscan: 12
    });
  });

  let menu = $state<ReturnType<typeof ActionMenu> | null>(null);
  const openMenu = (event: MouseEvent, row: RequestRow): void =>
    void menu?.open(event, [
      ...linkActions(open(row)),
      { name: 'Its endpoint', href: viewLink('/endpoint', { service: row.service, endpoint: row.endpoint }) },
      {
        name: 'Requests of its endpoint',
        href: viewLink('/requests', { service: row.service, endpoint: row.endpoint })
      },
      { name: 'Requests of its host', href: viewLink('/requests', { host: row.host }) },
      { name: 'Copy the trace id', run: () => copyText(row.traceId) }
    ]);
  const open = (row: RequestRow): string => viewLink(`/requests/${row.traceId}/${row.spanId}`, NO_PICKS);
  const typical = $derived(
    list.rows.length === 0
      ? undefined
      : list.rows.reduce((best, row) =>
          Math.abs(row.durationNs - list.p50Ns) < Math.abs(best.durationNs - list.p50Ns) ? row : best
        )
  );
  const slowest = $derived(
    list.rows.length === 0
      ? undefined
      : list.rows.reduce((best, row) => (row.durationNs > best.durationNs ? row : best))
  );
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

  function keys(event: KeyboardEvent): void {
    const step = { ArrowDown: 1, ArrowUp: -1, PageDown: 15, PageUp: -15 }[event.key];
    if (!step) return;
    event.preventDefault();
    focused = Math.min(list.rows.length - 1, Math.max(0, focused + step));
    $virtualizer.scrollToIndex(focused);
    requestAnimationFrame(() =>
      requestAnimationFrame(() => scroller?.querySelector<HTMLElement>(`a[data-index="${focused}"]`)?.focus())
    );
  }

  /** How a column of the list is laid out, and what it is in CSV. */
  const LAYOUT: Record<
    string,
    { title: string; width: string; right?: boolean; csv: (row: RequestRow) => string | number }
  > = {
    at: { title: 'at', width: '96px', csv: (row) => new Date(row.startUs / 1000).toISOString() },
    service: { title: 'service', width: '78px', csv: (row) => row.service },
    endpoint: { title: 'endpoint', width: 'minmax(120px,1fr)', csv: (row) => row.endpoint },
    host: { title: 'host', width: '62px', csv: (row) => row.host },
    release: { title: 'release', width: '60px', csv: (row) => row.release },
    calls: { title: 'calls', width: '52px', right: true, csv: (row) => row.calls },
    spans: { title: 'spans', width: '52px', right: true, csv: (row) => row.spans },
    findings: { title: 'findings', width: '66px', right: true, csv: (row) => row.findings },
    ledger: { title: 'where it goes', width: '100px', csv: (row) => JSON.stringify(row.ledger) },
    duration: { title: 'duration', width: '84px', right: true, csv: (row) => row.durationNs }
  };
  const columns = $derived(data.columns.filter((name) => name in LAYOUT || attributeOf(name)));
  const attributes = $derived(columns.map(attributeOf).filter((name) => name !== null));
  const template = $derived(columns.map((name) => LAYOUT[name]?.width ?? 'minmax(70px,110px)').join(' '));

  function exportCsv(): void {
    const lines = list.rows.map((row) => [
      ...columns.map((name) => {
        const attribute = attributeOf(name);
        return attribute ? row.attributes[attributes.indexOf(attribute)] : LAYOUT[name].csv(row);
      }),
      row.failed ? 1 : 0,
      row.traceId,
      row.spanId
    ]);
    const head = columns.map((name) => (name === 'duration' ? 'durationNs' : (attributeOf(name) ?? name)));
    saveText('requests.csv', toCsv([...head, 'failed', 'traceId', 'spanId'], lines));
  }

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
    const next = columns.includes(name) ? columns.filter((one) => one !== name) : [...columns, name];
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
    {#each sentences as sentence (sentence)}<Sentence text={sentence} />{/each}
    {#if typical && slowest}
      <div class="mb-3 flex flex-wrap gap-1.5">
        <a class="button button-solid" href={open(typical)}>Open a typical one</a>
        <a class="button" href={open(slowest)}>Open the slowest</a>
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
    <p class="mt-1 text-[11px] text-ink-3">
      Percentiles are exact, by linear interpolation; the Apdex by each endpoint’s T.{list.count > 0 &&
      list.count < SMALL_GROUP
        ? ` Fewer than ${SMALL_GROUP} samples: take the Apdex with care.`
        : ''}
    </p>
  {/snippet}

  <div class="flex flex-none items-baseline px-4 pt-2 pb-1">
    <Conditions scope={data.scope} names={data.attributeNames} group={data.group} />
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
    <div class="flex flex-wrap items-baseline gap-x-2.5 gap-y-1 px-4 py-1.5 text-ink-2">
      <Choices
        label="First the"
        choices={Object.entries(SORT_NAMES).map(([key, name]) => ({
          key,
          name,
          href: chosen({ sort: key })
        }))}
        value={data.sort}
      />
      <label class="flex items-baseline gap-1.5"
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
      <span class="ml-auto"
        >{list.rows.length < list.count
          ? `${formatCount(list.rows.length)} of ${formatCount(list.count)} listed`
          : plural(list.count, 'request')}</span
      >
      <DropdownMenu.Root>
        <DropdownMenu.Trigger class="button border-rule text-ink-2">Columns</DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content
            class="pop max-h-[60vh] min-w-48 overflow-y-auto py-1"
            align="end"
            sideOffset={4}
          >
            {#each [...REQUEST_COLUMNS.map( (key) => ({ key: key as string, name: LAYOUT[key].title }) ), ...data.attributeNames.map( (one) => ({ key: `attr:${one.name}`, name: one.name }) )] as { key, name } (key)}
              <DropdownMenu.CheckboxItem
                checked={columns.includes(key)}
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
      <button class="button border-rule text-ink-2" onclick={exportCsv}>CSV</button>
    </div>
    <div
      class="grid items-center border-y border-rule bg-sheet pr-8"
      style:grid-template-columns={template}
      aria-hidden="true"
    >
      {#each columns as name (name)}<span class="truncate column {LAYOUT[name]?.right ? 'text-right' : ''}"
          >{LAYOUT[name]?.title ?? attributeOf(name)}</span
        >{/each}
    </div>
    <!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
    <div
      class="min-h-0 flex-1 overflow-y-auto bg-sheet"
      bind:this={scroller}
      tabindex="0"
      role="region"
      aria-label="Requests"
      onkeydown={keys}
    >
      <div class="relative w-full" style:height="{$virtualizer.getTotalSize()}px">
        {#each $virtualizer.getVirtualItems() as item (item.key)}
          {@const row = list.rows[item.index]}
          <a
            href={open(row)}
            data-index={item.index}
            oncontextmenu={(event) => openMenu(event, row)}
            class="absolute inset-x-0 top-0 grid items-center border-b border-grid pr-8 hover:bg-pen-soft focus-visible:bg-pen-soft"
            style:grid-template-columns={template}
            style:height="{ROW}px"
            style:transform="translateY({item.start}px)"
            onfocus={() => (focused = item.index)}
          >
            {#each columns as name (name)}
              {#if name === 'at'}
                <span class="truncate pl-2 num text-ink-2">{exactTime(row.startUs / 1000)}</span>
              {:else if name === 'endpoint'}
                <span class="truncate px-2 font-[560]"
                  >{#if row.failed}<span class="text-alarm" title="failed"
                      >✕<span class="sr-only">failed</span></span
                    >
                  {/if}{row.endpoint}</span
                >
              {:else if name === 'findings'}
                <span class="px-2 text-right num"
                  >{#if row.findings > 0}<span class="text-pen" aria-hidden="true">◆</span>
                    {row.findings}{/if}</span
                >
              {:else if name === 'ledger'}
                <span class="px-2"><LedgerBar ledger={row.ledger} width={84} /></span>
              {:else if name === 'duration'}
                <span class="px-2 text-right num font-semibold">{formatDuration(row.durationNs)}</span>
              {:else if name === 'calls' || name === 'spans'}
                <span class="px-2 text-right num">{formatCount(row[name])}</span>
              {:else if name === 'release'}
                <span class="truncate px-2 num text-ink-2">{row.release}</span>
              {:else if name === 'service' || name === 'host'}
                <span class="truncate px-2 text-ink-2">{row[name]}</span>
              {:else}
                {@const value = row.attributes[attributes.indexOf(attributeOf(name)!)]}
                <span class="truncate px-2 num text-ink-2" title={value}>{value}</span>
              {/if}
            {/each}
          </a>
          <div
            class="absolute top-0 right-1 grid place-items-center"
            style:height="{ROW}px"
            style:transform="translateY({item.start}px)"
          >
            <MoreButton onclick={(event) => openMenu(event, row)} />
          </div>
        {/each}
      </div>
    </div>
  {/if}
</Page>
<ActionMenu bind:this={menu} />
