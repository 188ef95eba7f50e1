<script lang="ts">
  import { greatestOf } from '@tromix/core/counters/lines';
  import { COLUMNS, MEASURES, type MeasureKey } from '@tromix/core/counters/strips';
  import { figureOf } from '@tromix/core/watch/figures';
  import type { Health } from '$lib/server/queries/hosts/health';
  import type { Strips } from '$lib/server/queries/hosts/hosts';
  import { measureText } from '@tromix/core/counters/measure-words';
  import { rowsByArrows } from '$lib/ui/frame/lists';
  import ActionMenu from '$lib/ui/kit/ActionMenu.svelte';
  import MoreButton from '$lib/ui/kit/MoreButton.svelte';
  import { measureOffer } from '$lib/ui/watch/offer-of';
  import { offersWatch, watchActions, type WatchOffer } from '$lib/ui/watch/offers.svelte';
  import HealthCell from './HealthCell.svelte';
  import Strip from './Strip.svelte';

  /** A row a host (or service, or process), a column a counter, one time axis. */
  interface Props {
    strips: Strips;
    /** By the rows' keys. */
    health: ReadonlyMap<string, Health>;
    /** Key of the row that is shown below. */
    chosen: string;
    hrefOf: (key: string) => string;
  }
  let { strips, health, chosen, hrefOf }: Props = $props();

  let menu = $state<ReturnType<typeof ActionMenu> | null>(null);
  type Row = Strips['rows'][number];
  /** What of a row can be watched: what a host tells. Services and processes are put together of several senders. */
  function offerOf(measure: MeasureKey, row: Row): WatchOffer | null {
    const known = COLUMNS.hosts.find((one) => one === measure);
    return strips.kind === 'hosts' && known && row.lines[known] ? measureOffer(known, row.name) : null;
  }
  const offersOf = (row: Row): WatchOffer[] =>
    COLUMNS.hosts.map((measure) => offerOf(measure, row)).filter((offer) => offer !== null);
  function openMenu(event: MouseEvent, row: Row): void {
    void menu?.open(
      event,
      offersOf(row).flatMap((offer) =>
        watchActions(offer).map((action) => ({
          ...action,
          name: `${action.name}: ${figureOf(offer.watched).title}`
        }))
      )
    );
  }
  const isTold = (measure: MeasureKey): boolean => strips.rows.some(({ lines }) => lines[measure]);
  const measures: readonly MeasureKey[] = $derived(COLUMNS[strips.kind].filter(isTold));
  const untold = $derived(COLUMNS[strips.kind].filter((measure) => !isTold(measure)));
  const hasHealth = $derived(strips.kind !== 'processes');
  const SINGULAR = { hosts: 'host', services: 'service', processes: 'process' } as const;
  /** Shares reach to all of it; others to the greatest of all rows. */
  const topOf = (measure: MeasureKey): number => {
    const most = Math.max(
      0,
      ...strips.rows.map(({ lines }) => (lines[measure] ? (greatestOf(lines[measure]) ?? 0) : 0))
    );
    return MEASURES[measure].unit === 'share' ? Math.max(1, most) : most || 1;
  };
  const tops = $derived(new Map(measures.map((measure) => [measure, topOf(measure)])));
</script>

<table class="w-full table-fixed border-collapse" aria-label="Counters over time" data-list use:rowsByArrows>
  <thead>
    <tr class="border-b border-rule bg-paper text-left text-[11px] text-ink-2">
      <th scope="col" class="w-[112px] py-1.5 pl-4 font-normal">{SINGULAR[strips.kind]}</th>
      {#if hasHealth}<th scope="col" class="w-[92px] px-2 py-1.5 font-normal"
          >requests<span class="block whitespace-nowrap text-ink-3">against before</span></th
        >{/if}
      {#each measures as measure (measure)}
        <th scope="col" class="px-2 py-1.5 font-normal"
          >{MEASURES[measure].title}
          <span class="block num text-ink-3">0 to {measureText(measure, tops.get(measure)!)}</span></th
        >
      {/each}
    </tr>
  </thead>
  <tbody>
    {#each strips.rows as row, i (row.key)}
      <tr
        class={['relative border-b border-rule hover:bg-pen-soft', row.key === chosen && 'bg-pen-soft']}
        aria-current={row.key === chosen ? 'true' : undefined}
        use:offersWatch={() => offersOf(row)[0] ?? null}
        oncontextmenu={(event) => openMenu(event, row)}
      >
        <th scope="row" class="py-1.5 pl-4 text-left align-top font-normal">
          <a
            class="block truncate font-[560] text-ink after:absolute after:inset-0"
            href={hrefOf(row.key)}
            data-row>{row.name}</a
          >
          <span class="flex items-center text-[11px] text-ink-3"
            ><span class="truncate" title={row.about}>{row.about || '–'}</span
            >{#if offersOf(row).length > 0}<span class="relative z-10 ml-auto"
                ><MoreButton onclick={(event) => openMenu(event, row)} /></span
              >{/if}</span
          >
        </th>
        {#if hasHealth}<td class="px-2 py-1.5 align-top"
            ><HealthCell health={health.get(row.key) ?? null} /></td
          >{/if}
        {#each measures as measure (measure)}
          <td class="px-2 py-1.5">
            {#if row.lines[measure]}
              <div class="relative z-10" use:offersWatch={() => offerOf(measure, row)}>
                <Strip
                  label="{MEASURES[measure].title} of {row.name}"
                  text={(value) => measureText(measure, value)}
                  line={row.lines[measure]}
                  top={tops.get(measure)!}
                  fromMs={strips.fromMs}
                  stepMs={strips.stepMs}
                  odd={strips.odd.filter((one) => one.row === i && one.measure === measure)}
                />
              </div>
            {:else}<span class="block h-[34px] pt-3 text-[11px] text-ink-3">not told</span>{/if}
          </td>
        {/each}
      </tr>
    {/each}
  </tbody>
</table>
{#if untold.length > 0}<p class="border-b border-rule px-4 py-1 text-[11px] text-ink-3">
    Nobody tells of {untold.map((measure) => MEASURES[measure].title).join(', ')} here.
  </p>{/if}
<ActionMenu bind:this={menu} />
