<script lang="ts">
  import { VITALS, type Vital } from '@tromix/core/pages/vitals';
  import type { TrialLoad } from '$lib/server/queries/pages/listed-loads';
  import { dateTime } from '$lib/ui/kit/time';
  import { viewLink } from '$lib/ui/shell/links';
  import { textColumn } from '$lib/ui/tables/column-makers';
  import type { Column } from '$lib/ui/tables/columns';
  import DataTable from '$lib/ui/tables/DataTable.svelte';
  import { vitalColumns } from './page-columns';
  import { loadLink } from './page-links';
  import VitalCell from './VitalCell.svelte';

  /** Loads that were recorded, or read from archives. */
  let { loads }: { loads: TrialLoad[] } = $props();
  const isVital = (key: string): key is Vital => (VITALS as readonly string[]).includes(key);
  const COLUMNS: Column<TrialLoad>[] = [
    { key: 'page', title: 'page', width: 160, grows: true, value: ({ page }) => page },
    {
      key: 'received',
      title: 'kept',
      width: 104,
      value: ({ receivedUs }) => receivedUs,
      text: ({ receivedUs }) => dateTime(receivedUs / 1000)
    },
    textColumn('release', 'release', ({ release }) => release, { width: 70 }),
    textColumn(
      'how',
      'how',
      ({ source, device, connection }) =>
        source === 'archive' ? 'from an archive' : [device, connection].filter(Boolean).join(', '),
      { width: 190 }
    ),
    ...vitalColumns<TrialLoad>((row) => row, 'of this load').filter(({ key }) =>
      ['ttfb', 'fcp', 'lcp', 'cls'].includes(key)
    )
  ];
  /** The newest other one of its page, to be held against. */
  const against = (load: TrialLoad): string =>
    loads.find((one) => one.traceId !== load.traceId && one.page === load.page && one.site === load.site)
      ?.traceId ?? '';
</script>

<DataTable
  label="Recorded loads"
  rows={loads}
  columns={COLUMNS}
  keyOf={({ traceId }) => traceId}
  hrefOf={({ traceId }) => loadLink(traceId)}
  actionsOf={(load) => [
    {
      name: 'Compare with another',
      href: viewLink('/compare/loads', {}, { before: against(load), after: load.traceId })
    }
  ]}
  sort="-received"
  param="trials"
  file="recorded-loads"
  empty="No page was recorded, and no archive was read."
  short
>
  {#snippet head()}<h2 class="text-[13px] text-ink">
      Loads that were recorded, or read from an archive
    </h2>{/snippet}
  {#snippet cell(row, column)}
    {#if column.key === 'page'}<span
        class="block truncate font-mono text-[12px]"
        title="{row.page}, {row.site}">{row.page} <span class="text-ink-3">{row.site}</span></span
      >
    {:else if isVital(column.key)}<VitalCell vital={column.key} value={row[column.key]} />{/if}
  {/snippet}
</DataTable>
