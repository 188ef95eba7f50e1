<script lang="ts">
  import type { FunctionOfEndpoint } from '@tromix/core/profile/sums/scope-sums';
  import { formatDuration, formatShare } from '@tromix/core/text/format';
  import { durationMark } from '$lib/ui/chart/duration-axis';
  import Chart from '$lib/ui/chart/Chart.svelte';
  import { overBins } from '$lib/ui/chart/bins';
  import type { Place } from '$lib/ui/chart/facts';
  import { flagLines } from '$lib/ui/chart/flag-lines';
  import type { ChartTheme } from '$lib/ui/chart/theme';
  import Asking from '$lib/ui/frame/Asking.svelte';
  import { resource } from '$lib/ui/frame/resource.svelte';
  import { shortTime } from '$lib/ui/kit/time';
  import DataTable from '$lib/ui/tables/DataTable.svelte';
  import type { Column } from '$lib/ui/tables/columns';
  import { countColumn, durationColumn, shareColumn, textColumn } from '$lib/ui/tables/column-makers';
  import { viewLink } from '$lib/ui/shell/links';
  import type { OpenedSums } from '$lib/workers/profile.worker';
  import { binsOf } from './function-points';
  import { inTenths, tenths } from './in-tenths';
  import type { ProfileClient } from './profile-client.svelte';
  import { placeOf } from './profile-reading';

  /** One function over the time, the releases and the endpoints of a scope. */
  interface Props {
    client: ProfileClient;
    sums: OpenedSums;
    /** Index of its frame. */
    frame: number;
    /** Its name as links have it. */
    name: string;
    ofEndpoint: boolean;
  }
  let { client, sums, frame, name, ofEndpoint }: Props = $props();

  const asked = resource(
    () => frame,
    (of) => client.service.functionOver(of),
    { keep: true }
  );
  const per = $derived(ofEndpoint ? 'request' : 'second');
  const binned = $derived(
    asked.value && asked.value.points.length > 0 ? binsOf(asked.value.points, per) : null
  );
  const releases = $derived(
    sums.sums.releases
      .filter(({ id }) => binned?.bins.some(({ release }) => release === id))
      .toSorted((a, b) => a.firstUs - b.firstUs)
  );
  const releaseName = (id: number): string =>
    sums.sums.releases.find((one) => one.id === id)?.name || 'no release named';
  const figure = (ns: number): string => `${formatDuration(ns)} a ${per}`;
  const places = $derived(
    (binned?.bins ?? []).map(({ at, release, requests, figure: ns }): Place => ({
      at: shortTime(at),
      x: at + binned!.binMs / 2,
      facts: [
        { name: 'release', value: releaseName(release) },
        { name: 'CPU', value: figure(ns) },
        ...(ofEndpoint ? [{ name: 'requests', value: inTenths(requests) }] : [])
      ]
    }))
  );
  /** The newest release is drawn in the pen's colour, the others ever fainter. */
  const looks = $derived(
    releases.map(({ id, name: of }, i) => ({
      id,
      name: of || 'no release named',
      colour: i === releases.length - 1 ? 'pen' : i === releases.length - 2 ? 'steer' : 'ink-3'
    }))
  );
  function option(theme: ChartTheme): object {
    const { of, values } = theme;
    const { bins, binMs, fromMs, toMs } = binned!;
    const begins = releases.map(({ firstUs }) => firstUs / 1000).filter((at) => at > fromMs && at < toMs);
    return {
      grid: { left: 64, right: 16, top: 12, bottom: 22 },
      ...overBins({ series: bins, binMs, fromMs, toMs }, places, theme),
      yAxis: {
        ...values,
        min: 0,
        splitNumber: 3,
        axisLabel: { ...values.axisLabel, formatter: durationMark(1) }
      },
      series: looks.map(({ id, name: of_, colour }, i) => ({
        type: 'line',
        name: of_,
        symbol: 'circle',
        symbolSize: 5,
        itemStyle: { color: of(colour as 'pen') },
        lineStyle: { width: 1.4, color: of(colour as 'pen') },
        data: bins.filter(({ release }) => release === id).map((bin) => [bin.at + binMs / 2, bin.figure]),
        ...(i === 0 ? flagLines(begins, theme) : {})
      }))
    };
  }
  interface Row extends FunctionOfEndpoint {
    name: string;
    service: string;
  }
  const rows = $derived(
    (asked.value?.endpoints ?? []).flatMap((one): Row[] => {
      const known = sums.sums.endpoints.find(({ id }) => id === one.endpoint);
      return known && one.totalUs > 0 ? [{ ...one, name: known.name, service: known.service }] : [];
    })
  );
  const COLUMNS: Column<Row>[] = [
    textColumn('endpoint', 'endpoint', ({ name: of }) => of, { width: 190, grows: true }),
    textColumn('service', 'service', ({ service }) => service, { width: 110 }),
    countColumn('requests', 'requests', ({ requests }) => tenths(requests), {
      width: 84,
      about: 'Requests whose own time was recorded; one with a part of it counts with that part'
    }),
    durationColumn('each', 'CPU a request', ({ totalUs, requests }) => (totalUs * 1000) / (requests || 1), {
      width: 104,
      about: 'Of this function with what it calls'
    }),
    shareColumn('share', 'of its CPU', ({ totalUs, busyUs }) => totalUs / (busyUs || 1), { width: 84 }),
    durationColumn('total', 'in all', ({ totalUs }) => totalUs * 1000, { width: 84 })
  ];
  const place = $derived(placeOf(sums.frames[frame]));
</script>

<div class="flex min-h-0 flex-1 flex-col bg-sheet" data-testid="function-over-time">
  <h2 class="flex-none px-4 pt-2 text-[13px]">
    {sums.frames[frame].name}
    <span class="font-normal text-ink-3">{place}{place && ', '}CPU a {per} with what it calls</span>
  </h2>
  <Asking of={asked} doing="Adding up this function…" />
  {#if binned && binned.bins.length > 0}
    <div class="flex-none px-2">
      <Chart
        {option}
        height={150}
        label="CPU of {sums.frames[frame].name} a {per} with what it calls, over time and by release."
        {places}
        legend={looks.map(({ name: of, colour }) => ({
          name: of,
          colour: `var(--${colour})`,
          line: 'solid' as const
        }))}
        file="function-over-time"
        narrows
      />
    </div>
  {:else if asked.value}
    <p class="px-4 py-3 text-ink-2">No recording of this time has it in a request’s own time.</p>
  {/if}
  {#if !ofEndpoint && asked.value}
    <DataTable
      label="Endpoints that run it"
      {rows}
      keyOf={({ endpoint }) => String(endpoint)}
      hrefOf={(row) =>
        viewLink('/profiles/scope', { service: row.service, endpoint: row.name }, { show: 'over', of: name })}
      sort="-total"
      file="function-by-endpoint"
      columns={COLUMNS}
      actionsOf={(row) => [
        { name: 'Its requests', href: viewLink('/requests', { service: row.service, endpoint: row.name }) }
      ]}
      short
    >
      {#snippet head()}<h2 class="text-[13px] text-ink">
          Endpoints that run it <span class="font-normal text-ink-3"
            >{formatShare(
              rows.reduce((sum, { totalUs }) => sum + totalUs, 0) /
                (asked.value!.points.reduce((sum, { totalUs }) => sum + totalUs, 0) || 1)
            )} of its CPU is in requests that are known</span
          >
        </h2>{/snippet}
    </DataTable>
  {/if}
</div>
