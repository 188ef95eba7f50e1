<script lang="ts">
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import { compareLoads, type ComparedFile, type ComparedLoads } from '@tromix/core/pages/compare-loads';
  import type { PageLoad } from '@tromix/core/pages/page-load';
  import { VITAL_FACTS } from '@tromix/core/pages/vitals';
  import type { Side } from '@tromix/core/sides';
  import { formatBytes, formatDuration } from '@tromix/core/text/format';
  import Empty from '$lib/ui/kit/Empty.svelte';
  import ScrollRegion from '$lib/ui/kit/ScrollRegion.svelte';
  import Sentence from '$lib/ui/kit/Sentence.svelte';
  import { dateTime } from '$lib/ui/kit/time';
  import { comparedReading, WAY_NAMES } from '$lib/ui/pages/compared-loads-reading';
  import { loadFacts } from '$lib/ui/pages/load-reading';
  import { loadLink } from '$lib/ui/pages/page-links';
  import { formatVital } from '$lib/ui/pages/vital-words';
  import VitalCell from '$lib/ui/pages/VitalCell.svelte';
  import Page from '$lib/ui/shell/Page.svelte';
  import { signedBytes } from '$lib/ui/tables/column-makers';
  import type { Column } from '$lib/ui/tables/columns';
  import DataTable from '$lib/ui/tables/DataTable.svelte';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();
  const { before, after } = $derived(data.pair);
  const compared = $derived(before && after ? compareLoads({ before, after }) : null);
  const SIDES: readonly Side[] = ['before', 'after'];

  const withSides = (sides: Partial<Record<Side, string>>): string => {
    const query = new URLSearchParams(page.url.searchParams);
    for (const [side, id] of Object.entries(sides)) query.set(side, id);
    return `${page.url.pathname}?${query}`;
  };
  const nameOf = ({ page: name, atUs, ...rest }: PageLoad): string =>
    [name, dateTime(atUs / 1000), loadFacts({ page: name, atUs, ...rest })].filter(Boolean).join(', ');
  const ms = (value: number): string => formatDuration(value * 1e6);
  const signed = (value: number): string =>
    value === 0 ? '0' : `${value < 0 ? '−' : '+'}${ms(Math.abs(value))}`;

  type Vital = ComparedLoads['vitals'][number];
  const VITAL_COLUMNS: Column<Vital>[] = [
    {
      key: 'vital',
      title: 'vital',
      width: 150,
      grows: true,
      value: ({ vital }) => VITAL_FACTS[vital].title,
      text: ({ vital }) => `${VITAL_FACTS[vital].title} ${vital.toUpperCase()}`
    },
    { key: 'before', title: 'A', width: 96, right: true, value: ({ values }) => values.before },
    { key: 'after', title: 'B', width: 96, right: true, value: ({ values }) => values.after },
    {
      key: 'change',
      title: 'change',
      width: 96,
      right: true,
      value: ({ values: { before: a, after: b } }) => (a === null || b === null ? null : b - a),
      text: ({ vital, values: { before: a, after: b } }) => {
        if (a === null || b === null) return '–';
        const change = formatVital(vital, Math.abs(b - a));
        return b === a ? change : `${b < a ? '−' : '+'}${change}`;
      }
    }
  ];
  type Part = ComparedLoads['way'][number];
  const WAY_COLUMNS: Column<Part>[] = [
    {
      key: 'part',
      title: 'on the way to the largest paint',
      width: 220,
      grows: true,
      value: ({ part }) => WAY_NAMES[part],
      text: ({ part }) => WAY_NAMES[part]
    },
    {
      key: 'before',
      title: 'A',
      width: 96,
      right: true,
      value: ({ ms: of }) => of.before,
      text: ({ ms: of }) => ms(of.before)
    },
    {
      key: 'after',
      title: 'B',
      width: 96,
      right: true,
      value: ({ ms: of }) => of.after,
      text: ({ ms: of }) => ms(of.after)
    },
    {
      key: 'change',
      title: 'change',
      width: 96,
      right: true,
      value: ({ ms: of }) => of.after - of.before,
      text: ({ ms: of }) => signed(of.after - of.before)
    }
  ];
  const bytesOf = (file: ComparedFile, side: Side): number | null => file.files[side]?.bytes ?? null;
  const fileText = (file: ComparedFile, side: Side): string => {
    const of = file.files[side];
    if (of === null) return 'not there';
    const size = of.bytes === null ? 'not told' : formatBytes(of.bytes);
    return of.count > 1 ? `${of.count} × , ${size}`.replace(' ,', ',') : size;
  };
  const FILE_COLUMNS: Column<ComparedFile>[] = [
    {
      key: 'name',
      title: 'file',
      width: 240,
      grows: true,
      value: ({ name }) => name,
      text: ({ name }) => name
    },
    { key: 'kind', title: 'kind', width: 80, value: ({ kind }) => kind, text: ({ kind }) => kind },
    {
      key: 'before',
      title: 'A',
      width: 110,
      right: true,
      value: (file) => bytesOf(file, 'before'),
      text: (file) => fileText(file, 'before')
    },
    {
      key: 'after',
      title: 'B',
      width: 110,
      right: true,
      value: (file) => bytesOf(file, 'after'),
      text: (file) => fileText(file, 'after')
    },
    {
      key: 'change',
      title: 'change',
      width: 96,
      right: true,
      value: (file) => (bytesOf(file, 'after') ?? 0) - (bytesOf(file, 'before') ?? 0),
      text: (file) => signedBytes((bytesOf(file, 'after') ?? 0) - (bytesOf(file, 'before') ?? 0))
    }
  ];
</script>

<Page>
  {#snippet scope()}
    <span class="flex items-center gap-x-1.5">
      Looking at what changed from
      {#each SIDES as side, i (side)}
        {@const chosen = data.pair[side]}
        {#if i === 1}to{/if}
        <select
          class="w-56 field py-0.5"
          aria-label={side === 'before' ? 'The earlier load' : 'The later load'}
          value={chosen?.traceId ?? ''}
          onchange={(event) =>
            void goto(withSides({ [side]: event.currentTarget.value }), { keepFocus: true })}
        >
          <option value="">choose a load</option>
          {#if chosen && !data.trials.some(({ traceId }) => traceId === chosen.traceId)}
            <option value={chosen.traceId}>{nameOf(chosen)}</option>
          {/if}
          {#each data.trials as { traceId, page: name, receivedUs, release, connection } (traceId)}<option
              value={traceId}
              >{[name, dateTime(receivedUs / 1000), release, connection].filter(Boolean).join(', ')}</option
            >{/each}
        </select>
      {/each}
      {#if before && after}<a
          class="button"
          href={withSides({ before: after.traceId, after: before.traceId })}>Swap</a
        >{/if}
    </span>
  {/snippet}
  {#snippet reading()}
    {#if compared && before && after}
      {#each comparedReading(compared, { before, after }) as sentence, i (i)}<Sentence
          text={sentence}
        />{/each}
      <p class="text-ink-3">
        Two loads: what differs between them need not be a change. Record several of each side before you
        trust it.
      </p>
      <p class="mt-3 flex flex-wrap gap-1.5">
        <a class="button" href={loadLink(before.traceId)}>Load A</a>
        <a class="button" href={loadLink(after.traceId)}>Load B</a>
      </p>
    {:else}<p>
        Choose two loads: one from before a change, and one from after it, recorded under the same slow-down.
      </p>{/if}
  {/snippet}
  <h1 class="sr-only">Two page loads</h1>
  {#if compared}
    <ScrollRegion label="Two page loads">
      <DataTable
        label="Vitals of both loads"
        rows={compared.vitals}
        columns={VITAL_COLUMNS}
        keyOf={({ vital }) => vital}
        sort=""
        param="vitals"
        file="vitals-of-two"
        short
      >
        {#snippet head()}<h2 class="text-[13px] text-ink">Vitals</h2>{/snippet}
        {#snippet cell(row, column)}<VitalCell
            vital={row.vital}
            value={column.key === 'before' ? row.values.before : row.values.after}
          />{/snippet}
      </DataTable>
      <DataTable
        label="The way to the largest paint on both sides"
        rows={compared.way}
        columns={WAY_COLUMNS}
        keyOf={({ part }) => part}
        sort=""
        param="way"
        file="way-of-two"
        empty="One of the two tells no largest paint."
        short
      >
        {#snippet head()}<h2 class="text-[13px] text-ink">
            The way to the largest paint, what changed most first
          </h2>{/snippet}
      </DataTable>
      <DataTable
        label="Files of both loads"
        rows={compared.files}
        columns={FILE_COLUMNS}
        keyOf={({ kind, name }) => `${kind} ${name}`}
        sort=""
        param="files"
        file="files-of-two"
        short
      >
        {#snippet head()}<h2 class="text-[13px] text-ink">Files, what changed most first</h2>{/snippet}
      </DataTable>
    </ScrollRegion>
  {:else}
    <Empty title="Choose what to compare">
      <p>Record the page before and after a change, or read two archives, and choose both above.</p>
      <a class="button button-solid" href="/recorder">Go to the recorder</a>
    </Empty>
  {/if}
</Page>
