<script lang="ts">
  import { greatestOf } from '@tromix/core/counters/lines';
  import type { HostPool, HostProcess } from '@tromix/core/findings/host-finding';
  import { formatCount, formatDuration, plural } from '@tromix/core/text/format';
  import type { Health } from '$lib/server/queries/hosts/health';
  import AnyCounter from '$lib/ui/hosts/AnyCounter.svelte';
  import HostReading from '$lib/ui/hosts/HostReading.svelte';
  import CoreBar from '$lib/ui/hosts/CoreBar.svelte';
  import { processFacts } from '$lib/ui/hosts/host-words';
  import { HOST_PARAMS, ROW_KINDS } from '$lib/ui/hosts/hosts-state';
  import { PROCESS_ALSO, PROCESS_COLUMNS } from '$lib/ui/hosts/process-columns';
  import SendCounters from '$lib/ui/hosts/SendCounters.svelte';
  import Strips from '$lib/ui/hosts/Strips.svelte';
  import { screenKeys } from '$lib/ui/frame/keys.svelte';
  import { urlState } from '$lib/ui/frame/url-state.svelte';
  import Choices from '$lib/ui/kit/Choices.svelte';
  import Empty from '$lib/ui/kit/Empty.svelte';
  import ScrollRegion from '$lib/ui/kit/ScrollRegion.svelte';
  import { timeRange } from '$lib/ui/kit/time';
  import { viewLink } from '$lib/ui/shell/links';
  import Page from '$lib/ui/shell/Page.svelte';
  import ScopeLine from '$lib/ui/shell/ScopeLine.svelte';
  import { countColumn, textColumn } from '$lib/ui/tables/column-makers';
  import type { Column } from '$lib/ui/tables/columns';
  import DataTable from '$lib/ui/tables/DataTable.svelte';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();
  screenKeys([
    { keys: '↑ ↓', does: 'choose a row' },
    { keys: 'Enter', does: 'show its host below' }
  ]);
  const address = urlState(HOST_PARAMS);
  const { shown } = $derived(address);
  const { strips, host } = $derived(data);
  /** Follows the strips; what was there stays until it is there anew. */
  let health = $state.raw<ReadonlyMap<string, Health>>(new Map());
  $effect(() => {
    const { health: asked } = data;
    let alive = true;
    asked.then(
      (answer) => alive && (health = answer),
      () => alive && (health = new Map())
    );
    return () => (alive = false);
  });
  const chosen = $derived(
    strips.kind === 'hosts'
      ? (host?.host ?? '')
      : (strips.rows.find(({ narrow }) => narrow.host === host?.host)?.key ?? '')
  );
  const hrefOf = (key: string): string => {
    const row = strips.rows.find((one) => one.key === key);
    return row?.narrow.host
      ? address.href({ one: row.narrow.host })
      : viewLink('/hosts', { service: row?.narrow.service ?? '' });
  };

  const lastOf = (line: HostPool['used']): number | null => line.findLast((value) => value !== null) ?? null;
  const rounded = (value: number | null): number | null => (value === null ? null : Math.round(value));
  const POOL_COLUMNS: Column<HostPool>[] = [
    {
      key: 'pool',
      title: 'pool',
      width: 140,
      grows: true,
      value: ({ name }) => name,
      text: ({ name }) => name
    },
    textColumn('kind', 'of', ({ of }) => of, { width: 96 }),
    textColumn('service', 'service', ({ service }) => service, { width: 110 }),
    countColumn('size', 'size', ({ size }) => rounded(size), { width: 64, about: 'The most it may hold' }),
    countColumn('used', 'in use', ({ used }) => rounded(lastOf(used)), {
      width: 64,
      about: 'At the end of the time shown'
    }),
    countColumn('most', 'most in use', ({ used }) => rounded(greatestOf(used)), { width: 88 }),
    countColumn('waiting', 'most waiting', ({ waiting }) => rounded(greatestOf(waiting)), { width: 92 }),
    {
      key: 'waited',
      title: 'median wait',
      about: 'While somebody waited',
      width: 88,
      right: true,
      value: ({ waitedS }) => waitedS,
      text: ({ waitedS }) => (waitedS === null ? '–' : formatDuration(waitedS * 1e9))
    }
  ];
  const serviceLink = ({ service, release }: HostProcess): string =>
    viewLink('/requests', { host: host!.host, service, release, endpoint: '' });
</script>

<Page>
  {#snippet scope()}
    <ScopeLine which={['service', 'host', 'time']} window={data.window} />
  {/snippet}
  {#snippet reading()}
    <HostReading {strips} {host} {chosen} {health} refused={data.refused} />
    {#if strips.rows.length === 0}<SendCounters />{/if}
  {/snippet}

  {#if strips.rows.length === 0}
    <Empty title="No counters in this time range">
      <SendCounters />
    </Empty>
  {:else}
    <ScrollRegion label="Hosts">
      <div class="flex items-center gap-3 border-b border-rule px-4 py-1.5">
        <h1 class="text-[13px] text-ink">Hosts</h1>
        <Choices
          label="a row for each of the"
          choices={ROW_KINDS.map((key) => ({ key, name: key, href: address.href({ rows: key }) }))}
          value={shown.rows}
        />
        {#if strips.more}<span class="text-[11px] text-ink-3"
            >The first {formatCount(strips.rows.length)}; narrow the scope for others.</span
          >{/if}
      </div>
      <Strips {strips} {health} {chosen} {hrefOf} />
      {#if host}
        <h2 class="border-b border-rule px-4 pt-3 pb-1.5 text-[13px]">
          <b class="font-semibold">{host.host}: what used its CPU</b>
          <span class="text-ink-2"
            >{timeRange(data.window.fromUs / 1000, data.window.toUs / 1000, Date.now())}{host.cores === null
              ? ''
              : `, ${formatCount(Math.round(host.cores))} cores`}</span
          >
        </h2>
        {#if host.processes.length === 0}
          <p class="px-4 py-3 text-ink-2">No process of it tells of itself, and nobody tells of them.</p>
        {:else}
          <DataTable
            label="Processes of {host.host}"
            rows={host.processes}
            columns={PROCESS_COLUMNS}
            keyOf={({ pid }) => String(pid)}
            hrefOf={(row) => (row.service ? serviceLink(row) : null)}
            sort="-cpu"
            param="processes"
            exportAlso={PROCESS_ALSO}
            file="processes-{host.host}"
            short
            linkName={({ name, service }) => `${name}: requests of ${service} on this host`}
          >
            {#snippet cell(row, column)}
              {#if column.key === 'name'}
                <span
                  class="block truncate font-[560]"
                  title={[row.commandLine, ...processFacts(row).map((fact) => fact.join(' '))]
                    .filter(Boolean)
                    .join('\n')}>{row.name}</span
                >
                <span class="block truncate num text-[11px] text-ink-3"
                  >{[row.owner, row.commandLine].filter(Boolean).join(' · ') || 'not told'}</span
                >
              {:else if column.key === 'bar'}
                {#if host.cores !== null && (row.cores !== null || row.waits !== null)}<CoreBar
                    process={row}
                    cores={host.cores}
                  />{:else}<span class="text-ink-3">–</span>{/if}
              {/if}
            {/snippet}
          </DataTable>
        {/if}
        {#if host.pools.length > 0}
          <h2 class="border-b border-rule px-4 pt-3 pb-1.5 text-[13px]">
            <b class="font-semibold">{host.host}: pools</b>
          </h2>
          <DataTable
            label="Pools of {host.host}"
            rows={host.pools}
            columns={POOL_COLUMNS}
            keyOf={({ name, of, service }) => `${service} ${of} ${name}`}
            hrefOf={({ service }) => viewLink('/requests', { host: host!.host, service, endpoint: '' })}
            sort="-waiting"
            param="pools"
            file="pools-{host.host}"
            short
          />
          {#if host.waiters.length > 0}
            <p class="border-b border-rule px-4 py-1.5">
              Waited for a connection:
              {#each host.waiters as { service, endpoint, requests }, i (`${service} ${endpoint}`)}{i > 0
                  ? ', '
                  : ''}<a
                  class="underline decoration-dotted"
                  href={viewLink('/requests', {
                    host: host.host,
                    service,
                    endpoint,
                    finding: 'waits-for-connection'
                  })}>{endpoint}</a
                >
                <span class="text-ink-3">of {service}, {plural(requests, 'kept request')}</span>{/each}.
            </p>
          {/if}
        {/if}
        <AnyCounter
          host={host.host}
          fromMs={data.window.fromUs / 1000}
          toMs={data.window.toUs / 1000}
          chosen={shown.counter}
          onchoose={(counter) => void address.go({ counter })}
        />
      {/if}
    </ScrollRegion>
  {/if}
</Page>
