<script lang="ts">
  import ScrollRegion from '$lib/ui/kit/ScrollRegion.svelte';
  import { apdexRating } from '@tromix/core/stats/apdex';
  import { formatDuration, formatRate, formatShare, plural } from '@tromix/core/text/format';
  import type { Overview, OverviewRow } from '$lib/server/queries/overview';
  import { rowsByArrows } from '$lib/ui/frame/lists';
  import { LOOKS } from '$lib/ui/ledger/accounts';
  import { handOver } from '$lib/ui/cases/pins.svelte';
  import { offerOfRow } from '$lib/ui/cases/row-offer';
  import ActionMenu from '$lib/ui/kit/ActionMenu.svelte';
  import { linkActions, type Action } from '$lib/ui/kit/actions';
  import MoreButton from '$lib/ui/kit/MoreButton.svelte';
  import { changeLook, TONES } from '$lib/ui/kit/change';
  import { offersWatch, watchActionsOf, type WatchOffer } from '$lib/ui/watch/offers.svelte';
  import LedgerBar from '$lib/ui/ledger/LedgerBar.svelte';
  import ZoneBar from '$lib/ui/kit/ZoneBar.svelte';

  let {
    overview,
    rows,
    hrefOf,
    actionsOf,
    watchOf
  }: {
    overview: Overview;
    rows: OverviewRow[];
    hrefOf: (row: OverviewRow) => string;
    /** What can be done with a row besides opening it. */
    actionsOf: (row: OverviewRow) => Action[];
    /** What of a row can be watched, or put on a board. */
    watchOf: (row: OverviewRow) => WatchOffer | null;
  } = $props();
  let menu = $state<ReturnType<typeof ActionMenu> | null>(null);
  function openMenu(event: MouseEvent, row: OverviewRow): void {
    const here = event.currentTarget as Element;
    void menu?.open(event, [
      ...linkActions(hrefOf(row)),
      ...actionsOf(row),
      ...watchActionsOf(watchOf(row)),
      ...handOver(() => offerOfRow(here, overview.kind === 'endpoints' ? 'endpoint' : 'view', hrefOf(row)))
    ]);
  }
  const NAMES = { endpoints: 'endpoint', services: 'service', hosts: 'host', releases: 'release' };
  const twoNames = $derived(overview.kind === 'endpoints' || overview.kind === 'releases');
  const turnName = $derived(
    overview.kind === 'releases'
      ? 'release before'
      : overview.turn.kind === 'release'
        ? `${overview.turn.service} ${overview.turn.release}`
        : 'before'
  );
</script>

<ScrollRegion
  label={overview.kind === 'endpoints' ? 'Endpoints' : `By ${NAMES[overview.kind]}`}
  class="border-t border-rule bg-sheet"
>
  <table class="w-full border-collapse" data-list use:rowsByArrows>
    <thead class="sticky top-0 z-10 bg-sheet">
      <tr class="border-b border-rule">
        {#if twoNames}<th class="column">service</th>{/if}
        <th class="column">{NAMES[overview.kind]}</th>
        <th
          class="column"
          title="Of all time in this scope; each nanosecond counts once, at the innermost request"
          >share of all time</th
        >
        <th class="column text-right">/min</th>
        <th class="column text-right" title="Exact for up to 300 requests, else within 1 %">median</th>
        <th class="column text-right" title="Exact for up to 300 requests, else within 1 %">p95</th>
        <th class="column text-right" title="Exact for up to 300 requests, else within 1 %">slowest</th>
        <th class="column" title="The requests with all they call">where it goes</th>
        <th
          class="column"
          title="Satisfied up to T, tolerating up to 4T, else or failed frustrated; the bounds within 2 %"
          >Apdex</th
        >
        <th
          class="column text-right"
          title="Median as a multiple of {overview.kind === 'releases'
            ? 'that of the release before'
            : turnName === 'before'
              ? 'that of the time before'
              : `that before ${turnName}`}: said only where a rank test over at least 20 requests on both sides is sure of it"
          >{turnName}</th
        >
        <th class="w-7 column"><span class="sr-only">more</span></th>
      </tr>
    </thead>
    <tbody>
      {#each rows as row (row.id)}
        {@const change = changeLook(row.change)}
        <tr
          oncontextmenu={(event) => openMenu(event, row)}
          use:offersWatch={() => watchOf(row)}
          class="relative border-b border-grid whitespace-nowrap focus-within:bg-pen-soft hover:bg-pen-soft"
        >
          {#if twoNames}<td class="px-2 py-1.5 text-ink-2">{row.service}</td>{/if}
          <td class="max-w-56 truncate px-2 py-1.5 font-[560]">
            <a data-row href={hrefOf(row)} title={row.name} class="after:absolute after:inset-0">{row.name}</a
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
              style:width="{Math.max(1, row.share * 72)}px"
            ></span><span class="num">{formatShare(row.share)}</span>
          </td>
          <td class="px-2 text-right num" title={plural(row.count, 'request')}>{formatRate(row.perMinute)}</td
          >
          <td class="px-2 text-right num">{formatDuration(row.p50Ns)}</td>
          <td class="px-2 text-right num">{formatDuration(row.p95Ns)}</td>
          <td class="px-2 text-right num text-ink-2">{formatDuration(row.slowestNs)}</td>
          <td class="px-2"><LedgerBar ledger={row.ledger} width={84} /></td>
          <td class="px-2"><ZoneBar zones={row.zones} tMs={row.tMs ?? 500} /></td>
          <td class="relative z-1 px-2 text-right num {TONES[change.tone]}" title={change.words}
            >{change.text}<span class="sr-only">{change.words}</span></td
          >
          <td><MoreButton onclick={(event) => openMenu(event, row)} /></td>
        </tr>
      {/each}
    </tbody>
  </table>
  <p class="px-2 py-2 text-[11px] text-ink-3">
    {#each Object.values(LOOKS) as { letter, name } (letter)}<span class="mr-3"
        ><span class="num">{letter}</span> {name}</span
      >{/each}
    Apdex of all: {overview.all.count ? apdexRating(overview.all.apdex) : '–'}. From roll-ups, the picture to
    the {overview.resolution}; percentiles are exact for up to 300 requests, else within 1 %, zone bounds
    within 2 %.{overview.guarded
      ? ' So many names came that the rest are taken together, as “(other endpoints)” and the like: 1 000 endpoints and releases of a service, 1 000 services, 5 000 hosts are distinguished. Names may hold ids; send http.route.'
      : ''}
  </p>
</ScrollRegion>
<ActionMenu bind:this={menu} />
