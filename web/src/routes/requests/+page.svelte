<script lang="ts">
  import { createVirtualizer } from '@tanstack/svelte-virtual';
  import { apdexRating, SMALL_GROUP } from '@tromix/core/stats/apdex';
  import { formatCount, formatDuration, formatShare, plural } from '@tromix/core/text/format';
  import type { RequestRow, Sort } from '$lib/server/queries/requests';
  import { saveText, toCsv } from '$lib/ui/kit/csv';
  import Empty from '$lib/ui/kit/Empty.svelte';
  import LedgerBar from '$lib/ui/kit/LedgerBar.svelte';
  import SendTraces from '$lib/ui/kit/SendTraces.svelte';
  import Sentence from '$lib/ui/kit/Sentence.svelte';
  import { exactTime } from '$lib/ui/kit/time';
  import { viewLink } from '$lib/ui/shell/links';
  import Page from '$lib/ui/shell/Page.svelte';
  import ScopeLine from '$lib/ui/shell/ScopeLine.svelte';
  import { scopeParts } from '$lib/ui/shell/scope-parts';
  import { describeKeys } from '$lib/ui/shell/shell-state.svelte';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();
  const list = $derived(data.requests);
  describeKeys([
    { keys: '↑ ↓', does: 'choose a request' },
    { keys: 'Enter', does: 'open it' }
  ]);

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

  const SORTS: { key: Sort; name: string }[] = [
    { key: 'duration', name: 'slowest' },
    { key: 'time', name: 'newest' },
    { key: 'calls', name: 'most calls' },
    { key: 'findings', name: 'most findings' }
  ];
  const open = (row: RequestRow): string => viewLink(`/requests/${row.traceId}/${row.spanId}`);
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

  function exportCsv(): void {
    const lines = list.rows.map((row) => [
      new Date(row.startUs / 1000).toISOString(),
      row.service,
      row.endpoint,
      row.host,
      row.release,
      row.durationNs,
      row.failed ? 1 : 0,
      row.calls,
      row.findings,
      row.traceId,
      row.spanId
    ]);
    saveText(
      'requests.csv',
      toCsv(
        [
          'start',
          'service',
          'endpoint',
          'host',
          'release',
          'durationNs',
          'failed',
          'calls',
          'findings',
          'traceId',
          'spanId'
        ],
        lines
      )
    );
  }
  const COLUMNS = 'grid grid-cols-[96px_78px_minmax(120px,1fr)_62px_52px_52px_66px_100px_84px] items-center';
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
          <th scope="row" class="py-1 text-left font-normal">Apdex [0.5 s]</th>
          <td class="text-right"
            >{list.count ? `${list.apdex.score.toFixed(2)} ${apdexRating(list.apdex.score)}` : '–'}</td
          >
        </tr>
      </tbody>
    </table>
    <p class="mt-1 text-[11px] text-ink-3">
      Percentiles are exact, by linear interpolation.{list.count > 0 && list.count < SMALL_GROUP
        ? ` Fewer than ${SMALL_GROUP} samples: take the Apdex with care.`
        : ''}
    </p>
  {/snippet}

  {#if list.count === 0}
    <Empty title="No request matches">
      {#if data.names.services.length > 0}
        <p>Widen the sentence above: another time, another endpoint, or any duration.</p>
        <a
          class="button button-solid"
          href={viewLink('/requests', {
            service: '',
            endpoint: '',
            host: '',
            release: '',
            slower: undefined,
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
    <div class="flex items-baseline gap-1.5 px-4 py-2 text-ink-2">
      First the
      {#each SORTS as { key, name }, i (key)}
        {#if i > 0}<span aria-hidden="true">·</span>{/if}
        <a
          href={viewLink('/requests', {}, key === 'duration' ? {} : { sort: key })}
          aria-current={key === data.sort ? 'true' : undefined}
          class="hover:text-ink aria-[current]:border-b-[1.5px] aria-[current]:border-dotted aria-[current]:border-steer aria-[current]:font-semibold aria-[current]:text-ink"
          >{name}</a
        >
      {/each}
      <span class="ml-auto"
        >{list.rows.length < list.count
          ? `${formatCount(list.rows.length)} of ${formatCount(list.count)} listed`
          : plural(list.count, 'request')}</span
      >
      <button class="ml-2 button border-rule text-ink-2" onclick={exportCsv}>CSV</button>
    </div>
    <div class="{COLUMNS} border-y border-rule bg-sheet pr-2" aria-hidden="true">
      {#each ['at', 'service', 'endpoint', 'host', 'release'] as name (name)}<span class="column">{name}</span
        >{/each}
      <span class="column text-right">calls</span>
      <span class="column text-right">findings</span>
      <span class="column">where it goes</span>
      <span class="column text-right">duration</span>
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
            class="{COLUMNS} absolute inset-x-0 top-0 border-b border-grid hover:bg-pen-soft focus-visible:bg-pen-soft"
            style:height="{ROW}px"
            style:transform="translateY({item.start}px)"
            onfocus={() => (focused = item.index)}
          >
            <span class="truncate pl-2 num text-ink-2">{exactTime(row.startUs / 1000)}</span>
            <span class="truncate px-2 text-ink-2">{row.service}</span>
            <span class="truncate px-2 font-[560]"
              >{#if row.failed}<span class="text-alarm" title="failed"
                  >✕<span class="sr-only">failed</span></span
                >
              {/if}{row.endpoint}</span
            >
            <span class="truncate px-2 text-ink-2">{row.host}</span>
            <span class="truncate px-2 num text-ink-2">{row.release}</span>
            <span class="px-2 text-right num">{formatCount(row.calls)}</span>
            <span class="px-2 text-right num"
              >{#if row.findings > 0}<span class="text-pen" aria-hidden="true">◆</span>
                {row.findings}{/if}</span
            >
            <span class="px-2"><LedgerBar ledger={row.ledger} width={84} /></span>
            <span class="px-2 text-right num font-semibold">{formatDuration(row.durationNs)}</span>
          </a>
        {/each}
      </div>
    </div>
  {/if}
</Page>
