<script lang="ts">
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import { apdexRating } from '@tromix/core/stats/apdex';
  import { formatCount, formatDuration, formatShare, plural } from '@tromix/core/text/format';
  import type { OverviewEndpoint, OverviewFinding } from '$lib/server/queries/overview';
  import { LOOKS } from '$lib/ui/kit/accounts';
  import { saveText, toCsv } from '$lib/ui/kit/csv';
  import Empty from '$lib/ui/kit/Empty.svelte';
  import Finding from '$lib/ui/kit/Finding.svelte';
  import LedgerBar from '$lib/ui/kit/LedgerBar.svelte';
  import SendTraces from '$lib/ui/kit/SendTraces.svelte';
  import Sentence from '$lib/ui/kit/Sentence.svelte';
  import ZoneBar from '$lib/ui/kit/ZoneBar.svelte';
  import { clockTime } from '$lib/ui/kit/time';
  import LedgerOverTime from '$lib/ui/ledger/LedgerOverTime.svelte';
  import { overviewReading } from '$lib/ui/ledger/overview-reading';
  import { viewLink } from '$lib/ui/shell/links';
  import Page from '$lib/ui/shell/Page.svelte';
  import ScopeLine from '$lib/ui/shell/ScopeLine.svelte';
  import { scopeParts } from '$lib/ui/shell/scope-parts';
  import { describeKeys } from '$lib/ui/shell/shell-state.svelte';
  import { sortRows } from '$lib/ui/tables/sort';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();
  const overview = $derived(data.overview);
  describeKeys([
    { keys: '↑ ↓', does: 'choose an endpoint' },
    { keys: 'Enter', does: 'open its requests' }
  ]);

  const RANKS: Record<string, { name: string; of: (row: OverviewEndpoint) => number | null }> = {
    total: { name: 'total time', of: (row) => row.exclusiveNs },
    count: { name: 'count', of: (row) => row.count },
    mean: { name: 'mean', of: (row) => row.meanNs },
    p95: { name: 'p95', of: (row) => row.p95Ns },
    frustrated: { name: 'frustrated', of: (row) => row.zones.frustrated },
    change: { name: 'change', of: (row) => row.change }
  };
  const rank = $derived(page.url.searchParams.get('rank') ?? 'total');
  const rows = $derived(sortRows(overview.endpoints, (RANKS[rank] ?? RANKS.total).of, 'desc'));
  const MOST = 0.9;
  const holding = $derived.by(() => {
    let sum = 0;
    const byShare = overview.endpoints;
    for (let i = 0; i < byShare.length; i++) {
      sum += byShare[i].share;
      if (sum >= MOST) return { count: i + 1, share: sum };
    }
    return { count: byShare.length, share: sum };
  });
  const turnName = $derived(overview.turn.kind === 'release' ? `${overview.turn.release}` : 'before');
  const flag = $derived(
    overview.turn.kind === 'release'
      ? { at: overview.turn.at, label: `${overview.turn.service} ${overview.turn.release}` }
      : null
  );

  interface SideRow {
    name: string;
    value: string;
    ratio: number;
    worseUp: boolean;
    difference?: string;
  }
  /** Fewer failures than this on either side say nothing about a change. */
  const FAILED_MIN = 10;
  const side = $derived.by((): SideRow[] => {
    const { before: b, after: a } = overview;
    return [
      { name: 'requests/min', value: formatCount(Math.round(a.perMinute)), ratio: NaN, worseUp: true },
      { name: 'p95', value: formatDuration(a.p95Ns), ratio: a.p95Ns / b.p95Ns, worseUp: true },
      {
        name: 'Apdex [0.5 s]',
        value: a.count ? a.apdex.toFixed(2) : '–',
        ratio: a.apdex / b.apdex,
        worseUp: false,
        difference: Math.abs(a.apdex - b.apdex).toFixed(2)
      },
      {
        name: 'failed',
        value: formatShare(a.failedShare),
        ratio: Math.min(a.failed, b.failed) >= FAILED_MIN ? a.failedShare / b.failedShare : NaN,
        worseUp: true
      },
      {
        name: 'calls/request',
        value: Number.isNaN(a.callsPerRequest) ? '–' : a.callsPerRequest.toFixed(1),
        ratio: a.callsPerRequest / b.callsPerRequest,
        worseUp: true
      }
    ];
  });

  const CHANGED = 1.05;
  function changeText(
    ratio: number,
    difference?: string
  ): { text: string; direction: 'up' | 'down' | 'same' } {
    if (!Number.isFinite(ratio) || (ratio < CHANGED && ratio > 1 / CHANGED))
      return { text: '=', direction: 'same' };
    const direction = ratio > 1 ? 'up' : 'down';
    return { text: `${direction === 'up' ? '▲' : '▼'} ${difference ?? `${ratio.toFixed(1)}×`}`, direction };
  }
  const tone = (direction: string, worseUp: boolean): string =>
    direction === 'same' ? 'text-ink-3' : (direction === 'up') === worseUp ? 'text-alarm' : 'text-ok';

  const requestsOf = (service: string, endpoint: string): string =>
    viewLink('/requests', { service, endpoint });
  const example = (finding: OverviewFinding): string =>
    viewLink(`/requests/${finding.example.evidence.traceId}/${finding.example.spanOfRequest}`, {
      service: finding.service,
      endpoint: finding.endpoint
    });

  function tableKeys(event: KeyboardEvent): void {
    const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    if (!step) return;
    const links = [...(event.currentTarget as HTMLElement).querySelectorAll<HTMLElement>('a[data-row]')];
    const at = links.indexOf(document.activeElement as HTMLElement);
    event.preventDefault();
    links[Math.min(links.length - 1, Math.max(0, at + step))]?.focus();
  }

  function exportCsv(): void {
    const lines = rows.map((row) => [
      row.service,
      row.endpoint,
      row.count,
      row.failed,
      row.share,
      row.totalNs,
      row.exclusiveNs,
      Math.round(row.p50Ns),
      Math.round(row.p95Ns)
    ]);
    saveText(
      'endpoints.csv',
      toCsv(
        ['service', 'endpoint', 'count', 'failed', 'share', 'totalNs', 'exclusiveNs', 'p50Ns', 'p95Ns'],
        lines
      )
    );
  }

  function findingSentence(finding: OverviewFinding): string {
    const share = formatShare(finding.share);
    switch (finding.rule) {
      case 'query-per-row':
      case 'row-by-row-writes':
      case 'chatty-remote':
        return `*${finding.endpoint}* makes the same call ${finding.typicalCalls === null ? 'very often' : `*${formatCount(finding.typicalCalls)} times*`} a request. It costs *${share}* of all the time spent here.`;
      case 'blind-stretch':
        return `Nothing was recorded inside *${finding.subject}* of ${finding.endpoint}. It holds *${share}* of all the time spent here.`;
      default:
        return `*${finding.endpoint}*: ${finding.subject} costs *${share}* of all the time spent here.`;
    }
  }
</script>

<Page>
  {#snippet scope()}
    <ScopeLine
      parts={scopeParts(
        ['service', 'host', 'release', 'time'],
        data.scope,
        data.names,
        overview.window,
        data.nowMs
      )}
    />
  {/snippet}
  {#snippet reading()}
    {#each overviewReading(overview) as sentence (sentence)}<Sentence text={sentence} />{/each}
    {#each overview.findings as finding (finding.rule + finding.service + finding.endpoint + finding.subject)}
      <Finding
        title={finding.title}
        severity={finding.share >= 0.1 ? 'high' : finding.share >= 0.02 ? 'medium' : 'low'}
        note="{plural(finding.requests, 'request')} · {finding.service}"
      >
        <Sentence text={findingSentence(finding)} />
        {#if finding.example.evidence.fingerprint}<code class="line-clamp-2 block num text-ink-2"
            >{finding.example.evidence.fingerprint}</code
          >{/if}
        {#snippet actions()}
          <a class="button button-solid" href={example(finding)}>Open a typical one</a>
        {/snippet}
      </Finding>
    {/each}
  {/snippet}

  {#if overview.all.count === 0}
    <Empty title="No requests in this window">
      {#if data.names.services.length > 0}
        <p>
          Other windows hold some: choose another time in the sentence above, or clear the selection on the
          time rail.
        </p>
        <a class="button button-solid" href="/?last=24h">Show the last 24 hours</a>
      {:else}
        <SendTraces />
        <p>Or drop a file of traces on the <a class="underline" href="/evidence">evidence</a> view.</p>
      {/if}
    </Empty>
  {:else}
    <div class="grid grid-cols-[minmax(0,1fr)_232px] border-b border-rule bg-sheet">
      <section class="px-4 pt-2.5">
        <h2 class="text-[13px]">Where an average request’s time goes</h2>
        <LedgerOverTime series={overview.series} {flag} />
      </section>
      <section class="border-l border-rule px-4 py-2.5">
        <h2 class="mb-1 text-[13px]">
          {overview.turn.kind === 'release'
            ? `Since ${overview.turn.service} ${overview.turn.release}`
            : 'Against the time before'}
        </h2>
        <table class="w-full">
          <tbody>
            {#each side as { name, value, ratio, worseUp, difference } (name)}
              {@const change = changeText(ratio, difference)}
              <tr class="border-b border-grid last:border-0">
                <th scope="row" class="py-[5px] text-left font-normal">{name}</th>
                <td class="text-right num">{value}</td>
                <td class="w-16 text-right num {tone(change.direction, worseUp)}">{change.text}</td>
              </tr>
            {/each}
          </tbody>
        </table>
      </section>
    </div>
    <div class="flex items-baseline gap-1.5 px-4 pt-2 pb-1 text-ink-2">
      Rank by
      {#each Object.entries(RANKS) as [key, { name }], i (key)}
        {#if i > 0}<span aria-hidden="true">·</span>{/if}
        <a
          href={viewLink('/', {}, key === 'total' ? {} : { rank: key })}
          aria-current={key === rank ? 'true' : undefined}
          class="hover:text-ink aria-[current]:border-b-[1.5px] aria-[current]:border-dotted aria-[current]:border-steer aria-[current]:font-semibold aria-[current]:text-ink"
          >{name}</a
        >
      {/each}
      <span class="ml-auto"
        >{holding.count} of {plural(overview.endpoints.length, 'endpoint')} hold {formatShare(holding.share)} of
        the time</span
      >
      <button class="ml-2 button border-rule text-ink-2" onclick={exportCsv}>CSV</button>
    </div>
    <!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
    <div
      class="min-h-0 flex-1 overflow-auto border-t border-rule bg-sheet"
      tabindex="0"
      role="region"
      aria-label="Endpoints"
      onkeydown={tableKeys}
    >
      <table class="w-full border-collapse">
        <thead class="sticky top-0 z-10 bg-sheet">
          <tr class="border-b border-rule">
            <th class="column">service</th>
            <th class="column">endpoint</th>
            <th
              class="column"
              title="Of all time in this scope; each nanosecond counts once, at the innermost request"
              >share of all time</th
            >
            <th class="column text-right">/min</th>
            <th class="column text-right" title="From minute roll-ups, within 1 %">median</th>
            <th class="column text-right" title="From minute roll-ups, within 1 %">p95</th>
            <th class="column" title="The requests with all they call">where it goes</th>
            <th class="column">Apdex zones</th>
            <th
              class="column text-right"
              title="Median against {turnName === 'before'
                ? 'the time before'
                : `before ${turnName}`}; only with at least 20 requests on both sides">{turnName}</th
            >
          </tr>
        </thead>
        <tbody>
          {#each rows as row (row.id)}
            {@const change = changeText(row.change ?? NaN)}
            <tr
              class="cursor-pointer border-b border-grid whitespace-nowrap focus-within:bg-pen-soft hover:bg-pen-soft"
              onclick={() => void goto(requestsOf(row.service, row.endpoint))}
            >
              <td class="px-2 py-1.5 text-ink-2">{row.service}</td>
              <td class="max-w-56 truncate px-2 py-1.5 font-[560]">
                <a
                  data-row
                  href={requestsOf(row.service, row.endpoint)}
                  title={row.endpoint}
                  onclick={(event) => event.stopPropagation()}>{row.endpoint}</a
                >
                {#if row.findings > 0}<span
                    class="text-pen"
                    role="img"
                    aria-label={plural(row.findings, 'finding')}
                    title={plural(row.findings, 'finding')}>◆</span
                  >{/if}
              </td>
              <td class="px-2 py-1.5">
                <span
                  class="mr-1.5 inline-block h-[9px] bg-pen opacity-75"
                  style:width="{Math.max(1, row.share * 130)}px"
                ></span><span class="num">{formatShare(row.share)}</span>
              </td>
              <td class="px-2 text-right num"
                >{row.perMinute >= 10 ? Math.round(row.perMinute) : row.perMinute.toFixed(1)}</td
              >
              <td class="px-2 text-right num">{formatDuration(row.p50Ns)}</td>
              <td class="px-2 text-right num">{formatDuration(row.p95Ns)}</td>
              <td class="px-2"><LedgerBar ledger={row.ledger} /></td>
              <td class="px-2"><ZoneBar zones={row.zones} /></td>
              <td class="px-2 text-right num {tone(change.direction, true)}"
                >{row.change === null ? '–' : change.text}</td
              >
            </tr>
          {/each}
        </tbody>
      </table>
      <p class="px-2 py-2 text-[11px] text-ink-3">
        {#each Object.values(LOOKS) as { letter, name } (letter)}<span class="mr-3"
            ><span class="num">{letter}</span> {name}</span
          >{/each}
        Apdex of all: {overview.after.count ? apdexRating(overview.after.apdex) : '–'}. Times to {clockTime(
          overview.window.toUs / 1000
        )} from minute roll-ups, percentiles within 1 %.
      </p>
    </div>
  {/if}
</Page>
