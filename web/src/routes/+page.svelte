<script lang="ts">
  import Hint from '$lib/ui/kit/Hint.svelte';
  import NoData from '$lib/ui/shell/NoData.svelte';
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import { eachSide, type Sides } from '@tromix/core/sides';
  import { changeRank } from '@tromix/core/stats/rank-test';
  import { formatCount, formatShare, plural } from '@tromix/core/text/format';
  import type { Scope } from '$lib/scope';
  import type { Overview, OverviewRow, RowKind, RowRank } from '$lib/server/queries/overview';
  import { toCsv } from '@tromix/core/text/csv';
  import { saveText } from '$lib/ui/kit/save-text';
  import Choices from '$lib/ui/kit/Choices.svelte';
  import FailuresHere from '$lib/ui/failures/FailuresHere.svelte';
  import FoundFinding from '$lib/ui/findings/FoundFinding.svelte';
  import Sentence from '$lib/ui/kit/Sentence.svelte';
  import LedgerOverTime from '$lib/ui/ledger/LedgerOverTime.svelte';
  import OverviewTable from '$lib/ui/overview/OverviewTable.svelte';
  import { overviewReading } from '$lib/ui/overview/overview-reading';
  import { SteadyOrder } from '$lib/ui/kit/steady-order';
  import { shortTime } from '$lib/ui/kit/time';
  import SideFigures from '$lib/ui/overview/SideFigures.svelte';
  import { copyText, type Action } from '$lib/ui/kit/actions';
  import { choiceLink, compareLink, viewLink, whyLink } from '$lib/ui/shell/links';
  import Page from '$lib/ui/shell/Page.svelte';
  import ScopeLine from '$lib/ui/shell/ScopeLine.svelte';
  import { screenKeys } from '$lib/ui/frame/keys.svelte';
  import { sortRows } from '$lib/ui/tables/sort';
  import { requestsOffer } from '$lib/ui/watch/offer-of';
  import { watchable } from '$lib/ui/watch/offers.svelte';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();
  const overview = $derived(data.overview);
  watchable(() => requestsOffer(data.scope));
  screenKeys([
    { keys: '↑ ↓', does: 'choose a row' },
    { keys: 'Enter', does: 'open it' },
    { keys: 'y', does: 'why the slow requests of the row are slow', run: () => void goto(whyLink(focused())) }
  ]);

  const RANKS: Record<RowRank, { name: string; of: (row: OverviewRow) => number | null }> = {
    total: { name: 'total time', of: (row) => row.exclusiveNs },
    count: { name: 'count', of: (row) => row.count },
    mean: { name: 'mean', of: (row) => row.meanNs },
    p95: { name: 'p95', of: (row) => row.p95Ns },
    frustrated: { name: 'frustrated', of: (row) => row.zones.frustrated },
    failed: { name: 'failed', of: (row) => row.failed },
    change: { name: 'change', of: (row) => changeRank(row.change) }
  };
  const KINDS: Record<RowKind, string> = {
    endpoints: 'endpoints',
    services: 'services',
    hosts: 'hosts',
    releases: 'releases'
  };
  /** What the scope may be compared at: what explains most, a release that came within the window, or the time before. */
  const marks = $derived([
    { key: 'auto', name: 'what explains most' },
    ...overview.marks.map(({ id, service, release, at }) => ({
      key: `r${id}`,
      name: `${service} ${release}, ${shortTime(at, overview.window.toUs / 1000)}`
    })),
    { key: 'release', name: 'the last release' },
    { key: 'period', name: 'the time before' }
  ]);
  const rank: RowRank = $derived(data.rank);
  const rows = $derived(sortRows(overview.rows, RANKS[rank].of, 'desc'));
  /** The choices of this view as they stand in the URL, with one changed. */
  const DEFAULTS = { rows: 'endpoints', rank: 'total', against: 'auto' };
  const chosen = (change: Partial<typeof DEFAULTS>): string =>
    choiceLink('/', { rows: data.kind, rank, against: data.against, ...change }, DEFAULTS);

  /** Live figures rank the findings anew again and again: those that are read stay where they are. */
  const order = new SteadyOrder();
  const findingKey = ({ rule, service, endpoint, subject }: Overview['findings'][number]): string =>
    JSON.stringify([rule, service, endpoint, subject]);

  const flag = $derived(
    overview.turn.kind === 'release'
      ? { at: overview.turn.at, label: `${overview.turn.service} ${overview.turn.release}` }
      : null
  );

  /** The scope narrowed to a row. */
  function narrowed(row: OverviewRow): Partial<Scope> {
    switch (overview.kind) {
      case 'endpoints':
        return { service: row.service, endpoint: row.name };
      case 'services':
        return { service: row.name, endpoint: '' };
      case 'hosts':
        return { host: row.name };
      case 'releases':
        return { service: row.service, release: row.name };
    }
  }
  const open = (row: OverviewRow): string =>
    viewLink(overview.kind === 'endpoints' ? '/endpoint' : '/', narrowed(row));
  /** The row that is chosen by the keyboard, else the first. */
  function focused(): Partial<Scope> {
    const links = [...document.querySelectorAll('a[data-row]')];
    const row = rows[Math.max(0, links.indexOf(document.activeElement!))];
    return row ? narrowed(row) : {};
  }
  /** What the change of a row is told between. */
  const turnSides = (row: OverviewRow): Sides<Partial<Scope>> =>
    eachSide(overview.windows, ({ fromUs, toUs }) => ({
      ...narrowed(row),
      ...(overview.kind === 'releases' ? {} : { release: '' }),
      from: Math.round(fromUs / 1000),
      to: Math.round(toUs / 1000)
    }));
  const actionsOf = (row: OverviewRow): Action[] => [
    { name: 'Its requests', href: viewLink('/requests', narrowed(row)) },
    { name: 'Its failed requests', href: viewLink('/requests', { ...narrowed(row), status: 'failed' }) },
    { name: 'Its calls', href: viewLink('/calls', narrowed(row)) },
    { name: 'Why its slow ones are slow', href: whyLink(narrowed(row)) },
    { name: 'Before against after', href: compareLink(turnSides(row)) },
    ...(overview.kind === 'hosts'
      ? [
          {
            name: 'Against the other hosts',
            href: compareLink({ before: { host: `!${row.name}` }, after: { host: row.name } })
          }
        ]
      : []),
    { name: 'Its findings', href: viewLink('/findings', narrowed(row)) },
    { name: 'Copy the name', run: () => copyText(row.name) }
  ];

  function exportCsv(): void {
    const head = [
      'service',
      'name',
      'count',
      'failed',
      'share',
      'totalNs',
      'exclusiveNs',
      'p50Ns',
      'p95Ns',
      'slowestNs'
    ];
    const lines = rows.map((row) => [
      row.service,
      row.name,
      row.count,
      row.failed,
      row.share,
      row.totalNs,
      row.exclusiveNs,
      Math.round(row.p50Ns),
      Math.round(row.p95Ns),
      Math.round(row.slowestNs)
    ]);
    saveText(`${overview.kind}.csv`, toCsv(head, lines));
  }
</script>

<Page>
  {#snippet scope()}
    <ScopeLine which={['service', 'host', 'release', 'time', 'run']} window={overview.window} />
  {/snippet}
  {#snippet reading()}
    {#each overviewReading(overview) as sentence, i (i)}<Sentence text={sentence} />{/each}
    {#each order.of(page.url.search, overview.findings, findingKey) as finding (findingKey(finding))}
      <FoundFinding {finding} />
    {/each}
    {#if overview.findings.length > 0}
      <a class="button" href={viewLink('/findings')}>All findings, and those set aside</a>
    {/if}
    <FailuresHere failures={data.failing} />
  {/snippet}

  {#if overview.all.count === 0}
    <NoData title="No requests in this time range">
      {#if data.newestMs === null}
        <p>Or drop a file of traces on the <a class="underline" href="/evidence">evidence</a> view.</p>
      {/if}
    </NoData>
  {:else}
    <div class="grid grid-cols-[minmax(0,1fr)_232px] border-b border-rule bg-sheet">
      <section class="px-4 pt-2.5">
        <h2 class="text-[13px]">Where an average request’s time goes: the <Hint of="ledger">ledger</Hint></h2>
        <LedgerOverTime
          series={overview.series}
          binMs={overview.stepMs}
          fromMs={overview.window.fromUs / 1000}
          toMs={overview.window.toUs / 1000}
          {flag}
          watch={requestsOffer(data.scope)}
        />
      </section>
      <section class="border-l border-rule px-4 py-2.5"><SideFigures {overview} /></section>
    </div>
    <div class="flex flex-wrap items-baseline gap-x-4 px-4 pt-2 pb-1 text-ink-2">
      <Choices
        label="Rank"
        choices={Object.entries(KINDS).map(([key, name]) => ({ key, name, href: chosen({ rows: key }) }))}
        value={overview.kind}
      />
      <Choices
        label="by"
        choices={Object.entries(RANKS).map(([key, { name }]) => ({ key, name, href: chosen({ rank: key }) }))}
        value={rank}
      />
      {#if overview.kind !== 'releases' && (rank === 'change' || overview.marks.length > 1 || data.against !== 'auto')}
        <Choices
          label="compared at"
          choices={marks.map(({ key, name }) => ({ key, name, href: chosen({ against: key }) }))}
          value={data.against}
          folded={marks.length > 4}
        />
      {/if}
      <span class="ml-auto"
        >{overview.holding.count} of {plural(overview.rowCount, overview.kind.slice(0, -1))} hold {formatShare(
          overview.holding.share
        )} of the time{#if overview.rowCount > overview.rows.length}; the first {formatCount(
            overview.rows.length
          )} by {RANKS[rank].name} are listed{/if}</span
      >
      <button class="button border-rule text-ink-2" onclick={exportCsv}>CSV</button>
    </div>
    <OverviewTable
      {overview}
      {rows}
      hrefOf={open}
      {actionsOf}
      watchOf={(row) => requestsOffer(data.scope, narrowed(row))}
    />
  {/if}
</Page>
