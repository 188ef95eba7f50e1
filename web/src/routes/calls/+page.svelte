<script lang="ts">
  import NoData from '$lib/ui/shell/NoData.svelte';
  import { words } from '@tromix/core/text/words';
  import { formatDuration, plural } from '@tromix/core/text/format';
  import { CALL_ROWS, rowsOfKind, usualRows, type CallRows } from '$lib/call-choices';
  import type { CallRow } from '$lib/server/queries/calls/calls';
  import { scopeWindow } from '$lib/scope';
  import { callColumns } from '$lib/ui/calls/kind-columns';
  import { callsReading } from '$lib/ui/calls/calls-reading';
  import { loggedColumns } from '$lib/ui/calls/logged-columns';
  import CallsOverTime from '$lib/ui/calls/CallsOverTime.svelte';
  import CallName from '$lib/ui/calls/CallName.svelte';
  import { phaseParts } from '$lib/ui/calls/phase-parts';
  import PhaseBar from '$lib/ui/calls/PhaseBar.svelte';
  import AccountChip from '$lib/ui/ledger/AccountChip.svelte';
  import Choices from '$lib/ui/kit/Choices.svelte';
  import Sentence from '$lib/ui/kit/Sentence.svelte';
  import { CALL_KINDS } from '$lib/ui/endpoint/part-kinds';
  import { choiceLink, viewLink } from '$lib/ui/shell/links';
  import Page from '$lib/ui/shell/Page.svelte';
  import ScopeLine from '$lib/ui/shell/ScopeLine.svelte';
  import { screenKeys } from '$lib/ui/frame/keys.svelte';
  import type { Column } from '$lib/ui/tables/columns';
  import DataTable from '$lib/ui/tables/DataTable.svelte';
  import { callsOffer } from '$lib/ui/watch/offer-of';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();
  screenKeys([
    { keys: '↑ ↓', does: 'choose a row' },
    { keys: 'Enter', does: 'open it' }
  ]);
  const calls = $derived(data.calls);
  /** The choices of this view as they stand in the URL, with one changed. */
  interface Chosen {
    rows: string;
    kind: string;
    file: string;
    source: string;
    log: string;
    origin: string;
  }
  const chosen = (change: Partial<Chosen>): string =>
    choiceLink<keyof Chosen>(
      '/calls',
      {
        rows: data.rows,
        kind: data.kind,
        file: data.file,
        source: data.logged ? 'logs' : 'traces',
        log: data.log,
        origin: data.origin ? String(data.origin.id) : '',
        ...change
      },
      {
        rows: usualRows(change.kind ?? data.kind),
        kind: '',
        file: '',
        source: 'traces',
        log: '',
        origin: ''
      }
    );

  const columns = $derived.by((): Column<CallRow>[] => [
    {
      key: 'name',
      title: noun,
      width: 200,
      grows: true,
      wants: 260,
      value: ({ name }) => name
    },
    ...callColumns(data.kind, calls?.rows ?? [], data.rows === 'statement')
  ]);
  const listsCalls = $derived(data.rows === 'statement' || data.rows === 'file');
  /** What a row is called. */
  const noun = $derived(
    data.kind === 'http' && data.rows === 'statement' ? 'outgoing request' : CALL_ROWS[data.rows]
  );
  function open(row: CallRow): string {
    const ofKind: Record<string, string> = data.kind ? { kind: data.kind } : {};
    const narrowed: Record<CallRows, () => string> = {
      statement: () => viewLink(`/calls/${row.id}`),
      file: () => chosen({ rows: 'statement', file: row.name }),
      endpoint: () => viewLink('/calls', { service: row.detail, endpoint: row.name }, ofKind),
      service: () => viewLink('/calls', { service: row.name }, ofKind),
      host: () => viewLink('/calls', { host: row.name }, ofKind),
      origin: () => chosen({ rows: usualRows(data.kind), origin: String(row.id) })
    };
    return narrowed[data.rows]();
  }

  /** The rows as they are, if a kind has them and they are not its usual ones. */
  const rowsFor = (kind: string): string =>
    data.rows === usualRows(data.kind) || !rowsOfKind(kind).includes(data.rows) ? usualRows(kind) : data.rows;

  const window = $derived(calls?.window ?? scopeWindow(data.scope, data.nowMs));
</script>

<Page>
  {#snippet scope()}
    <ScopeLine which={['endpoint', 'service', 'host', 'release', 'time', 'run']} {window} />
  {/snippet}
  {#snippet reading()}
    {#if calls}
      {#each callsReading(calls, noun) as sentence, i (i)}<Sentence text={sentence} />{/each}
      <p class="text-[11px] text-ink-3">
        Ranked by total time first: a call of 3 ms made 800 000 times costs more than one of 2 s made once.
        From roll-ups to the {calls.resolution}; p95 within 1 %.
      </p>
    {:else if data.logged}
      <Sentence
        text={words`${[plural(data.logged.length, 'statement')]} of ${data.log ? 'this log' : plural(data.logs.length, 'log')}, grouped without their values, as the database itself timed them.`}
      />
      <p class="text-[11px] text-ink-3">
        Values are masked; the logs themselves are not kept. Statements that traces show too are marked and
        open their page.
      </p>
    {/if}
  {/snippet}

  <div class="flex flex-wrap items-baseline gap-x-4 gap-y-1 px-4 pt-2 pb-1 text-ink-2">
    {#if calls}
      <Choices
        label="By"
        choices={rowsOfKind(data.kind).map((key) => ({
          key,
          name: CALL_ROWS[key],
          href: chosen({ rows: key })
        }))}
        value={data.rows}
      />
      <Choices
        label="of kind"
        choices={[
          { key: '', name: 'any', href: chosen({ rows: rowsFor(''), kind: '', file: '' }) },
          ...Object.entries(CALL_KINDS).map(([key, name]) => ({
            key,
            name,
            href: chosen({ rows: rowsFor(key), kind: key, file: '' })
          }))
        ]}
        value={data.kind}
      />
    {/if}
    {#if calls && data.origin}
      <span
        >made at <b class="num text-ink">{data.origin.name}</b>
        <a class="button border-rule px-1 py-0" href={chosen({ origin: '' })} aria-label="From every origin"
          >×</a
        ></span
      >
    {/if}
    {#if calls && data.file}
      <span
        >of <b class="num text-ink">{data.file}</b>
        <a
          class="button border-rule px-1 py-0"
          href={chosen({ rows: 'file', file: '' })}
          aria-label="Of every file">×</a
        ></span
      >
    {/if}
    {#if data.logs.length > 0}
      <Choices
        label="from"
        choices={[
          { key: 'traces', name: 'traces', href: chosen({ source: 'traces', log: '' }) },
          { key: '', name: 'statement logs', href: chosen({ source: 'logs', log: '' }) },
          ...data.logs.map(({ id, name }) => ({ key: id, name, href: chosen({ source: 'logs', log: id }) }))
        ]}
        value={data.logged ? data.log : 'traces'}
      />
    {/if}
  </div>
  {#if data.logged}
    <DataTable
      label="Statements of logs"
      kind="call group"
      rows={data.logged}
      columns={loggedColumns(data.logged)}
      keyOf={({ id }) => String(id)}
      hrefOf={(row) => viewLink(`/calls/${row.id}`)}
      sort="-total"
      file="statements"
    >
      {#snippet cell(row)}
        <span class="flex items-center" title={row.fingerprint}
          ><AccountChip account="database" /><span class="truncate num">{row.fingerprint}</span
          >{#if row.traced}<span class="ml-1.5 flex-none text-steer" title="Traces show it too"
              >⇄<span class="sr-only">in traces too</span></span
            >{/if}</span
        >
      {/snippet}
    </DataTable>
  {:else if calls && calls.rows.length === 0}
    <NoData title="No calls in this scope">
      <p>
        Calls come with traces: database, HTTP, cache, file, RPC and messaging spans. You can also drop a log
        of statements on the <a class="underline" href={viewLink('/evidence')}>evidence</a> view.
      </p>
    </NoData>
  {:else if calls}
    <section class="flex-none border-y border-rule bg-sheet" aria-label="Calls over time">
      <CallsOverTime
        series={calls.series}
        fromMs={calls.window.fromUs / 1000}
        toMs={calls.window.toUs / 1000}
        stepMs={calls.stepMs}
        resolution={calls.resolution}
        ofGroup={false}
      />
    </section>
    <DataTable
      label="Calls"
      kind="call group"
      rows={calls.rows}
      {columns}
      keyOf={({ id }) => String(id)}
      hrefOf={open}
      watchOf={({ fingerprint, detail }) =>
        data.rows === 'statement' ? callsOffer({ kind: detail, fingerprint }, data.scope) : null}
      sort="-total"
      file="calls-by-{data.rows}"
      rowHeight={data.rows === 'service' || data.rows === 'origin' || data.rows === 'host' ? 29 : 40}
    >
      {#snippet head()}<span>{plural(calls.all.groups, noun)}, {plural(calls.all.calls, 'call')}</span
        >{/snippet}
      {#snippet cell(row, column)}
        {#if column.key === 'phases'}
          {#if row.outgoing && row.outgoing.phased > 0}
            <span class="grid w-full gap-0.5">
              <span class="num"
                >{row.outgoing.answered > 0
                  ? formatDuration(row.outgoing.firstByteNs / row.outgoing.answered)
                  : '–'}</span
              >
              <PhaseBar parts={phaseParts(row.outgoing)} height={7} />
            </span>
          {:else}<span class="text-ink-3">–</span>{/if}
        {:else}
          <CallName {row} rows={data.rows} isCall={listsCalls} />
        {/if}
      {/snippet}
    </DataTable>
  {/if}
</Page>
