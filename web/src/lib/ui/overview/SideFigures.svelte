<script lang="ts">
  import { formatDuration, formatRate, formatShare } from '@tromix/core/text/format';
  import { eachSide } from '@tromix/core/sides';
  import { compareLink } from '$lib/ui/shell/links';
  import type { Overview } from '$lib/server/queries/overview';

  let { overview }: { overview: Overview } = $props();
  const compared = $derived(
    compareLink(
      eachSide(overview.windows, ({ fromUs, toUs }) => ({
        release: '',
        from: Math.round(fromUs / 1000),
        to: Math.round(toUs / 1000)
      }))
    )
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
  const rows = $derived.by((): SideRow[] => {
    const { before: b, after: a } = overview;
    return [
      { name: 'requests/min', value: formatRate(a.perMinute), ratio: NaN, worseUp: true },
      { name: 'p95', value: formatDuration(a.p95Ns), ratio: a.p95Ns / b.p95Ns, worseUp: true },
      {
        name: 'Apdex',
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
  /** A multiple of the figure before; two digits tell 0.07 from 0.1. */
  const ratioOf = (ratio: number): string => (ratio < 1 ? ratio.toFixed(2) : ratio.toFixed(1));
  const CHANGED = 1.05;
  function changeOf({ ratio, difference }: SideRow): { text: string; up: boolean | null } {
    if (!Number.isFinite(ratio) || (ratio < CHANGED && ratio > 1 / CHANGED)) return { text: '=', up: null };
    return { text: `${ratio > 1 ? '▲' : '▼'} ${difference ?? `${ratioOf(ratio)}×`}`, up: ratio > 1 };
  }
</script>

<h2 class="mb-1 flex text-[13px]">
  {overview.turn.kind === 'release'
    ? `Since ${overview.turn.service} ${overview.turn.release}`
    : 'Against the time before'}
  <a class="ml-auto text-[12px] font-normal text-steer hover:underline" href={compared}>Compare</a>
</h2>
<table class="w-full">
  <caption class="sr-only">Figures, and each as a multiple of what it was before</caption>
  <tbody>
    {#each rows as row (row.name)}
      {@const change = changeOf(row)}
      <tr class="border-b border-grid last:border-0">
        <th scope="row" class="py-[5px] text-left font-normal">{row.name}</th>
        <td class="text-right num">{row.value}</td>
        <td
          class="w-16 text-right num {change.up === null
            ? 'text-ink-3'
            : change.up === row.worseUp
              ? 'text-alarm'
              : 'text-ok'}"
          title={change.up === null ? 'As before' : `Of what it was before: ${change.text}`}>{change.text}</td
        >
      </tr>
    {/each}
  </tbody>
</table>
