<script lang="ts">
  import { lowerBound } from '@tromix/core/binary-search';
  import { formatCount, formatDuration, plural } from '@tromix/core/text/format';
  import type { RecordedRequests } from '$lib/server/queries/recorded-requests';
  import Asking from '$lib/ui/frame/Asking.svelte';
  import { resource } from '$lib/ui/frame/resource.svelte';
  import { exactTime } from '$lib/ui/kit/time';
  import DataTable from '$lib/ui/tables/DataTable.svelte';
  import { countColumn, durationColumn, shareColumn, textColumn } from '$lib/ui/tables/column-makers';
  import type { Column } from '$lib/ui/tables/columns';
  import { viewLink } from '$lib/ui/shell/links';
  import { NO_PICKS } from '$lib/scope';
  import type { ProfileClient } from './profile-client.svelte';

  interface Props {
    during: RecordedRequests;
    client: ProfileClient;
    /** When the recording began, epoch milliseconds. */
    beganMs: number;
    selection: { from: number; to: number } | null;
    /** The function that is chosen, and its name; −1 for none. */
    frame: number;
    frameName: string;
    /** Shows only what ran during the requests of an endpoint. */
    onendpoint: (endpoint: string) => void;
    hrefAt: (cut: { from: number; to: number }) => string;
  }
  let { during, client, beganMs, selection, frame, frameName, onendpoint, hrefAt }: Props = $props();

  const inside = $derived(
    during.requests.filter(
      ({ fromNs, toNs }) => !selection || (fromNs < selection.to && toNs > selection.from)
    )
  );
  /** CPU of the process during each of them. */
  const busy = resource(
    () => Float64Array.from(inside.flatMap(({ fromNs, toNs }) => [fromNs, toNs])),
    (stretches) => client.service.busyWithin(stretches),
    { keep: true }
  );
  /** The same of the chosen function alone, with what it calls. */
  const ofFrame = resource(
    () =>
      frame < 0
        ? null
        : { frame, stretches: Float64Array.from(inside.flatMap(({ fromNs, toNs }) => [fromNs, toNs])) },
    (asked) => client.service.busyWithin(asked.stretches, asked.frame),
    { keep: true }
  );
  interface Row {
    key: string;
    endpoint: string;
    fromNs: number;
    toNs: number;
    failed: boolean;
    busyNs: number;
    frameNs: number;
    others: number;
    path: string;
  }
  const rows = $derived.by((): Row[] => {
    const starts = inside.map(({ fromNs }) => fromNs).sort((a, b) => a - b);
    const ends = inside.map(({ toNs }) => toNs).sort((a, b) => a - b);
    return inside.map((request, i) => ({
      key: `${request.traceId}/${request.spanId}`,
      path: `/requests/${request.traceId}/${request.spanId}`,
      endpoint: request.endpoint,
      fromNs: request.fromNs,
      toNs: request.toNs,
      failed: request.failed,
      busyNs: busy.value?.[i] ?? 0,
      frameNs: (frame < 0 ? null : ofFrame.value?.[i]) ?? 0,
      // Those that began before its end, but for those that were over before it began, and itself.
      others: lowerBound(starts, request.toNs) - lowerBound(ends, request.fromNs) - 1
    }));
  });
  const endpoints = $derived.by(() => {
    const sums = new Map<string, { requests: number; ns: number; busyNs: number }>();
    for (const row of rows) {
      const sum = sums.get(row.endpoint) ?? { requests: 0, ns: 0, busyNs: 0 };
      sum.requests++;
      sum.ns += row.toNs - row.fromNs;
      sum.busyNs += row.busyNs;
      sums.set(row.endpoint, sum);
    }
    return [...sums].map(([endpoint, sum]) => ({ endpoint, ...sum })).sort((a, b) => b.busyNs - a.busyNs);
  });
  const columns = $derived<Column<Row>[]>([
    textColumn('endpoint', 'endpoint', ({ endpoint }) => endpoint, { width: 180, grows: true }),
    {
      key: 'began',
      title: 'began',
      width: 110,
      right: true,
      value: ({ fromNs }) => fromNs,
      text: ({ fromNs }) => exactTime(beganMs + fromNs / 1e6)
    },
    durationColumn('took', 'took', ({ fromNs, toNs }) => toNs - fromNs, { width: 90 }),
    durationColumn('cpu', 'CPU meanwhile', ({ busyNs }) => busyNs, {
      width: 110,
      about: 'CPU time of the whole process while this request ran, for any request'
    }),
    ...(frame < 0
      ? []
      : [
          durationColumn<Row>('function', `${frameName} meanwhile`, ({ frameNs }) => frameNs, {
            width: 150,
            about: 'CPU of this function with what it calls while the request ran, for any request'
          })
        ]),
    shareColumn('share', 'of its time', ({ busyNs, fromNs, toNs }) => busyNs / (toNs - fromNs || 1), {
      width: 80
    }),
    countColumn('others', 'beside', ({ others }) => others, {
      width: 64,
      about: 'Requests of this process that ran at the same time, at least in part'
    })
  ]);
</script>

<div class="flex min-h-0 flex-1 flex-col bg-sheet" data-testid="during-requests">
  <!-- Nothing stands here before its figures: the order is theirs. -->
  {#if !busy.value}<Asking of={busy} doing="Adding up the CPU of these requests…" />
  {:else}
    <p class="flex-none border-b border-rule px-4 py-1.5 text-ink-2">
      {plural(during.count, 'request')} ran while this was recorded{#if during.count > during.requests.length},
        the first {formatCount(during.requests.length)} of them are listed{/if}. For requests that ran at the
      same time the figure is the CPU of the whole process.
    </p>
    <div class="max-h-40 flex-none overflow-auto border-b border-rule">
      <table class="w-full border-collapse">
        <tbody>
          {#each endpoints as { endpoint, requests, ns, busyNs } (endpoint)}
            <tr class="border-b border-grid whitespace-nowrap hover:bg-pen-soft">
              <td class="px-4 py-1 font-[560]">{endpoint}</td>
              <td class="px-2 text-right num">{plural(requests, 'request')}</td>
              <td class="px-2 text-right num">{formatDuration(busyNs)} of CPU in {formatDuration(ns)}</td>
              <td class="px-4 text-right"
                ><button class="button px-1.5 py-[2px]" onclick={() => onendpoint(endpoint)}
                  >Show its CPU</button
                ></td
              >
            </tr>
          {/each}
        </tbody>
      </table>
    </div>
    <DataTable
      {rows}
      sort={frame < 0 ? '-cpu' : '-function'}
      {columns}
      keyOf={(row) => row.key}
      hrefOf={(row) => viewLink(row.path, NO_PICKS)}
      label="Requests while this was recorded"
      file="requests-in-profile"
      actionsOf={(row) => [
        { name: 'Cut the profile to it', href: hrefAt({ from: Math.max(0, row.fromNs), to: row.toNs }) }
      ]}
    />
  {/if}
</div>
