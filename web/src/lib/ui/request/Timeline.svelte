<script lang="ts">
  import ChevronDownIcon from '@lucide/svelte/icons/chevron-down';
  import ChevronRightIcon from '@lucide/svelte/icons/chevron-right';
  import { formatCount, formatDuration, formatShare, plural } from '@tromix/core/text/format';
  import { timelineRows, type TimelineRow } from '@tromix/core/trace/rows';
  import { isFailed } from '@tromix/core/trace/requests';
  import AccountChip from '$lib/ui/ledger/AccountChip.svelte';
  import ActionMenu from '$lib/ui/kit/ActionMenu.svelte';
  import { copyText, type Action } from '$lib/ui/kit/actions';
  import { LOOKS } from '$lib/ui/ledger/accounts';
  import MoreButton from '$lib/ui/kit/MoreButton.svelte';
  import { SvelteSet } from 'svelte/reactivity';
  import { handOver, type Offer } from '$lib/ui/cases/pins.svelte';
  import type { Folds } from './request-state';
  import { combPath, penPath, rowsBetween, rowTops, SPAN_HEIGHT } from './pen-line';
  import type { ReplayedTimes } from '@tromix/core/trace/replay';
  import type { StoredLog } from '$lib/server/queries/request-page';
  import { closedAll, closedBesideHeaviest, combsOf, OPEN_WHOLE_ROWS } from './folds';
  import CountersBelow from '$lib/ui/hosts/CountersBelow.svelte';
  import { takingPart } from './taking-part';
  import { shortStatement } from '$lib/ui/calls/short-statement';
  import { labelOf, latestEnd, rowLabel, type RequestModel } from './request-model';
  import { timelinePicture } from './timeline-picture';
  import { roundTicks } from './round-ticks';

  let {
    model,
    selected = $bindable(),
    logs = [],
    whatIf = null,
    folds,
    onfolds
  }: {
    model: RequestModel;
    selected: string;
    logs?: StoredLog[];
    /** Where the spans would lie after a remedy. */
    whatIf?: { title: string; times: ReplayedTimes } | null;
    /** How it was left, as its address says. */
    folds: Folds;
    /** What was folded and unfolded, whenever that changes. */
    onfolds: (folds: Folds) => void;
  } = $props();

  const NAME = 292;
  const CALLS = 48;
  const BOOKED = 60;
  const PAD = 8;
  /** Nothing is drawn before it is measured: all would be drawn twice. */
  let width = $state(0);
  let height = $state(400);
  let scrollTop = $state(0);
  let body = $state<HTMLDivElement | null>(null);

  const openCombs = new SvelteSet<string>();
  const closedSpans = new SvelteSet<string>();
  let combBy = $state<'parent' | 'fingerprint'>('parent');

  const now = (): Folds => ({ combBy, openCombs: [...openCombs], closedSpans: [...closedSpans] });
  /** The folds that were told last. */
  let known = '';

  /** A large request opens along its heaviest branch. */
  let opened: RequestModel | undefined;
  $effect.pre(() => {
    if (opened === model) return;
    opened = model;
    openCombs.clear();
    for (const key of folds.openCombs) openCombs.add(key);
    combBy = folds.combBy;
    const closed = folds.closedSpans;
    close(
      closed.length === 0 && model.whole.rows.length > OPEN_WHOLE_ROWS ? closedBesideHeaviest(model) : closed
    );
    known = JSON.stringify(now());
  });
  $effect(() => {
    const next = now();
    if (JSON.stringify(next) === known) return;
    known = JSON.stringify(next);
    onfolds(next);
  });
  function close(spans: Iterable<string>): void {
    closedSpans.clear();
    for (const id of spans) closedSpans.add(id);
  }
  function unfoldAll(): void {
    closedSpans.clear();
    for (const key of combsOf(
      timelineRows(tree, model.root, { openCombs, closedSpans, combBy, foldShort: true }).rows
    ))
      openCombs.add(key);
  }

  /** Log records by the span they were written in, nanoseconds on the tree's axis. */
  const logsOf = $derived.by(() => {
    const map = new Map<string, { at: number; severity: number; body: string }[]>();
    for (const [spanId, atUs, atNs, severity, body] of logs) {
      const node = model.byId.get(spanId);
      if (node === undefined) continue;
      const at = (atUs - tree.baseUs) * 1000 + atNs + tree.shift[node];
      map.set(spanId, [...(map.get(spanId) ?? []), { at, severity, body }]);
    }
    return map;
  });

  /** The rows as they are now, as a picture to save. */
  export function picture(colourOf: (token: string) => string): string {
    return timelinePicture(model, rows, timeline.rowOf, colourOf);
  }

  const tree = $derived(model.trace.tree);
  const timeline = $derived(
    openCombs.size === 0 && closedSpans.size === 0 && combBy === 'parent'
      ? model.whole
      : timelineRows(tree, model.root, { openCombs, closedSpans, combBy, foldShort: true })
  );
  const rows = $derived(timeline.rows);
  const tops = $derived(rowTops(rows));
  const from = $derived(tree.start[model.root]);
  const until = $derived(latestEnd(model));
  const lane = $derived(Math.max(80, width - NAME - CALLS - BOOKED - PAD));
  const x = $derived((ns: number) => ((ns - from) / Math.max(1, until - from)) * lane);
  const visible = $derived(
    width === 0 ? [0, 0] : rowsBetween(tops, scrollTop - 200, scrollTop + height + 200)
  );
  const pen = $derived(penPath(model.request.stretches, timeline.rowOf, tops, x));
  const ticks = $derived(roundTicks(until - from, Math.max(2, Math.floor(lane / 90))));

  const unseenNodes = $derived(
    new Set(model.request.stretches.filter(({ account }) => account === 'unseen').map(({ node }) => node))
  );
  const share = (row: TimelineRow): number => {
    const nodes = row.kind === 'comb' ? row.members : [row.node];
    return (
      nodes.reduce((sum, node) => sum + (model.request.booked.get(node) ?? 0), 0) /
      Math.max(1, model.request.durationNs)
    );
  };
  const accountOf = (row: TimelineRow) =>
    unseenNodes.has(row.node) ? 'unseen' : tree.nodes[row.node].account;

  function toggle(row: TimelineRow): void {
    if (!row.foldable) return;
    if (row.kind === 'comb') openCombs.add(row.key);
    else if (closedSpans.has(row.key)) closedSpans.delete(row.key);
    else closedSpans.add(row.key);
  }

  function choose(index: number): void {
    const row = rows[index];
    if (!row || row.kind === 'process') return;
    selected = row.key;
    const top = tops[index];
    if (body && (top < body.scrollTop || top + SPAN_HEIGHT > body.scrollTop + height))
      body.scrollTop = top - height / 2;
  }

  function onkeydown(event: KeyboardEvent): void {
    const at = rows.findIndex(({ key }) => key === selected);
    const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    if (step) {
      event.preventDefault();
      let next = at + step;
      while (rows[next]?.kind === 'process') next += step;
      choose(next);
    } else if (
      at >= 0 &&
      (event.key === 'ArrowRight' || event.key === 'ArrowLeft' || event.key === 'Enter')
    ) {
      event.preventDefault();
      const row = rows[at];
      if (event.key === 'ArrowLeft' && row.comb) {
        openCombs.delete(row.comb);
        selected = row.comb;
      } else if (row.foldable && (event.key === 'Enter' || (event.key === 'ArrowRight') !== row.open))
        toggle(row);
    } else if (event.key === '+') {
      unfoldAll();
    } else if (event.key === '-') {
      openCombs.clear();
    }
  }

  let menu = $state<ReturnType<typeof ActionMenu> | null>(null);
  function openMenu(event: MouseEvent, row: TimelineRow): void {
    const { span } = tree.nodes[row.node];
    const offered: Action[] = [
      { name: 'Select', run: () => (selected = row.key) },
      { name: span.call ? 'Copy what it asks' : 'Copy the name', run: () => copyText(labelOf(span)) },
      { name: 'Copy the span id', run: () => copyText(span.spanId) },
      ...handOver(() => spanOffer(row))
    ];
    if (row.foldable) offered.unshift({ name: row.open ? 'Fold' : 'Unfold', run: () => toggle(row) });
    if (row.comb) offered.unshift({ name: 'Fold the comb again', run: () => openCombs.delete(row.comb) });
    void menu?.open(event, offered);
  }

  /** A span, or like calls in a comb, as something to be pinned. */
  function spanOffer(row: TimelineRow): Offer {
    const { span } = tree.nodes[row.node];
    selected = row.key;
    return {
      kind: row.kind === 'comb' ? 'call group' : 'span',
      title: shortStatement(rowLabel(tree, row)),
      sentence: `${describe(row)}.`,
      figures: [
        { name: 'service', value: span.resource.service },
        { name: 'account', value: LOOKS[accountOf(row)].name },
        { name: 'begins after', value: formatDuration(tree.start[row.node] - from) },
        ...(row.kind === 'comb' ? [{ name: 'calls', value: formatCount(row.members.length) }] : []),
        { name: 'booked', value: formatShare(share(row)) }
      ],
      verbatim: labelOf(span).slice(0, 10_000),
      traces: [span.traceId]
    };
  }

  function describe(row: TimelineRow): string {
    const label = rowLabel(tree, row);
    const took =
      row.kind === 'comb'
        ? plural(row.members.length, tree.nodes[row.node].call ? 'call' : 'span')
        : formatDuration(tree.end[row.node] - tree.start[row.node]);
    return `${LOOKS[accountOf(row)].name}: ${label}, ${took}, booked ${formatShare(share(row))} of the request`;
  }
</script>

<div class="flex flex-none items-center gap-1.5 px-4 pb-1.5 text-[12px] text-ink-2">
  <button class="button border-rule text-ink-2" onclick={() => close(closedBesideHeaviest(model))}
    >Heaviest branch</button
  >
  <button class="button border-rule text-ink-2" onclick={unfoldAll}>Unfold all</button>
  <button
    class="button border-rule text-ink-2"
    onclick={() => {
      openCombs.clear();
      close(closedAll(model));
    }}>Fold all</button
  >
  <label class="ml-2 flex items-center gap-1 whitespace-nowrap"
    >combs by
    <select class="field py-0" bind:value={combBy}
      ><option value="parent">parent</option><option value="fingerprint">fingerprint</option></select
    ></label
  >
  {#if whatIf}<span class="ml-auto text-pen"
      >The thin bars: with “{whatIf.title.toLowerCase()}” fixed, {formatDuration(whatIf.times.durationNs)} at the
      least</span
    >{/if}
</div>
<div
  class="relative min-h-0 flex-1 overflow-x-hidden overflow-y-auto border-t border-rule bg-sheet"
  bind:this={body}
  bind:clientWidth={width}
  bind:clientHeight={height}
  onscroll={() => (scrollTop = body?.scrollTop ?? 0)}
  role="treegrid"
  data-list
  aria-label="Timeline"
  aria-rowcount={rows.length}
  tabindex="0"
  {onkeydown}
>
  <div
    class="sticky top-0 z-20 grid h-6 items-center border-b border-grid bg-paper text-[11px] text-ink-3"
    style:grid-template-columns="{NAME}px {CALLS}px {BOOKED}px 1fr"
    role="row"
  >
    <span class="pl-3" role="columnheader">span</span>
    <span class="pr-2 text-right" role="columnheader">calls</span>
    <span class="pr-2 text-right" role="columnheader">booked</span>
    <span class="relative h-full" role="columnheader" aria-label="time from the start">
      {#each ticks as tick (tick)}
        <span
          class="absolute top-1 num text-[11px]"
          style:left="{(tick / Math.max(1, until - from)) * lane}px"
          >{tick === 0 ? '0' : formatDuration(tick)}</span
        >
      {/each}
    </span>
  </div>
  <div class="relative" style:height="{tops[rows.length]}px">
    <svg
      class="pointer-events-none absolute top-0"
      style:left="{NAME + CALLS + BOOKED}px"
      width={lane + PAD}
      height={tops[rows.length]}
      aria-hidden="true"
    >
      {#each ticks as tick (tick)}
        {@const at = (tick / Math.max(1, until - from)) * lane}
        {#each [0, 1, 2, 3, 4] as fifth (fifth)}
          {@const line = at + (fifth * lane * (ticks[1] ?? 0)) / 5 / Math.max(1, until - from)}
          <path
            d="M{line} 0V{tops[rows.length]}"
            stroke="var(--grid)"
            stroke-width={fifth === 0 ? 1.2 : 0.7}
          />
        {/each}
      {/each}
    </svg>
    {#each rows.slice(visible[0], visible[1]) as row, i (row.key)}
      {@const index = visible[0] + i}
      {#if row.kind === 'process'}
        {@const { resource } = tree.nodes[row.node].span}
        <div
          class="absolute inset-x-0 h-[22px] truncate border-b border-grid bg-paper px-3 pt-0.5 text-[11.5px] font-semibold text-ink-2"
          style:top="{tops[index]}px"
          role="row"
          tabindex="-1"
        >
          <span role="gridcell"
            >{resource.service} · {resource.host}{#if Math.abs(tree.shift[row.node]) >= 1000}<span
                class="font-normal"
                title="Its clock disagrees with its caller’s; its spans were shifted as a whole to lie centred inside the call"
              >
                · clock shifted by {formatDuration(tree.shift[row.node])}</span
              >{/if}</span
          >
        </div>
      {:else}
        {@const { span, missing } = tree.nodes[row.node]}
        {@const account = accountOf(row)}
        <!-- svelte-ignore a11y_interactive_supports_focus, a11y_click_events_have_key_events -->
        <div
          class="absolute inset-x-0 grid h-[25px] items-center border-b border-grid hover:bg-steer-soft aria-selected:bg-pen-soft"
          style:top="{tops[index]}px"
          style:grid-template-columns="{NAME}px {CALLS}px {BOOKED}px 1fr"
          role="row"
          aria-level={row.depth + 1}
          aria-selected={row.key === selected}
          aria-expanded={row.foldable ? row.open : undefined}
          aria-label={describe(row)}
          onclick={() => choose(index)}
          ondblclick={() => toggle(row)}
          oncontextmenu={(event) => openMenu(event, row)}
        >
          <span
            class="flex min-w-0 items-center"
            style:padding-left="{4 + Math.min(row.depth, 12) * 13}px"
            role="gridcell"
          >
            <button
              class="grid size-4 flex-none place-items-center text-ink-3"
              class:invisible={!row.foldable}
              tabindex="-1"
              aria-label={row.open ? 'Fold' : 'Unfold'}
              onclick={() => toggle(row)}
            >
              {#if row.open}<ChevronDownIcon size={12} />{:else}<ChevronRightIcon size={12} />{/if}
            </button>
            <AccountChip {account} />
            <span
              class="truncate font-mono text-[11.5px] {missing ? 'text-ink-3 italic' : ''}"
              title={rowLabel(tree, row)}
            >
              {#if isFailed(span)}<span class="text-alarm" title="failed">✕</span>{/if}
              {shortStatement(rowLabel(tree, row))}
            </span>
            <span class="ml-auto flex-none"><MoreButton onclick={(event) => openMenu(event, row)} /></span>
          </span>
          <span class="pr-2 text-right num text-ink-2" role="gridcell"
            >{row.kind === 'comb' ? formatCount(row.members.length) : ''}</span
          >
          <span class="pr-2 text-right num text-ink-2" role="gridcell">{formatShare(share(row))}</span>
          <span class="relative h-full" role="gridcell">
            {#if row.kind === 'comb'}
              <svg
                class="absolute top-[6px] left-0 overflow-visible"
                width={lane}
                height="12"
                aria-hidden="true"
              >
                <path d={combPath(row.members, tree.start, tree.end, x)} fill={LOOKS[account].flat} />
              </svg>
            {:else}
              <i
                class="absolute top-[6px] h-3 rounded-[2px]"
                style:left="{x(tree.start[row.node])}px"
                style:width="{Math.max(2, x(tree.end[row.node]) - x(tree.start[row.node]))}px"
                style:background={LOOKS[account].colour}
                style:opacity={tree.reported.children[row.node].length > 0 && row.open ? 0.4 : 1}
              ></i>
              {#each span.events as event, e (e)}
                {@const exception = event.name === 'exception'}
                <i
                  class="absolute top-0.5 h-[22px] border-l-2 {exception ? 'border-alarm' : 'border-ink-3'}"
                  style:left="{x(tree.start[row.node] + event.offsetNs)}px"
                  title="{formatDuration(event.offsetNs)} {event.name}"
                ></i>
              {/each}
              {#each logsOf.get(span.spanId) ?? [] as record, e (e)}
                <i
                  class="absolute top-[15px] size-[7px] -translate-x-1/2 rounded-full border border-sheet {record.severity >=
                  17
                    ? 'bg-alarm'
                    : 'bg-ink-2'}"
                  style:left="{x(record.at)}px"
                  title={record.body}
                ></i>
              {/each}
            {/if}
            {#if whatIf}
              {@const nodes = row.kind === 'comb' ? row.members : [row.node]}
              {#each nodes.slice(0, 400) as node (node)}
                {@const begin = from + (whatIf.times.start.get(node) ?? 0)}
                {@const finish = from + (whatIf.times.end.get(node) ?? 0)}
                {#if finish > begin}<i
                    class="absolute bottom-px h-[3px] bg-pen"
                    style:left="{x(begin)}px"
                    style:width="{Math.max(1.5, x(finish) - x(begin))}px"
                  ></i>{/if}
              {/each}
            {/if}
          </span>
        </div>
      {/if}
    {/each}
    <svg
      class="pointer-events-none absolute top-0 z-10 overflow-hidden"
      style:left="{NAME + CALLS + BOOKED}px"
      width={lane + PAD}
      height={tops[rows.length]}
      aria-hidden="true"
    >
      <path
        d={width === 0 ? '' : pen}
        fill="none"
        stroke="var(--pen)"
        stroke-width="2"
        stroke-linejoin="round"
      />
    </svg>
  </div>
</div>
<div class="max-h-[40%] flex-none overflow-y-auto border-t border-rule bg-sheet">
  <CountersBelow
    of={takingPart(model)}
    fromMs={tree.baseUs / 1000 + from / 1e6}
    toMs={tree.baseUs / 1000 + until / 1e6}
    left={NAME + CALLS + BOOKED}
    right={PAD}
  />
</div>
<ActionMenu bind:this={menu} />
