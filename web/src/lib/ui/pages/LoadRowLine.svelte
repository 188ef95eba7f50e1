<script lang="ts">
  import ChevronDownIcon from '@lucide/svelte/icons/chevron-down';
  import ChevronRightIcon from '@lucide/svelte/icons/chevron-right';
  import type { PageLoad } from '@tromix/core/pages/page-load';
  import { formatBytes, formatCount, formatDuration } from '@tromix/core/text/format';
  import AccountChip from '$lib/ui/ledger/AccountChip.svelte';
  import { LOOKS } from '$lib/ui/ledger/accounts';
  import { lineLabel, lineWords, type ThingLine } from './load-lines';

  /** A line of the picture of a load: what it is, how many files and bytes, and its bars. */
  interface Props {
    line: ThingLine;
    load: PageLoad;
    /** Where it lies, pixels, and the widths of its columns. */
    top: number;
    height: number;
    columns: string;
    isSelected: boolean;
    isOnWay: boolean;
    /** Its bars as a path, and how wide they may be. */
    bars: string;
    width: number;
    /** When it began, where that is beyond the axis; else null. */
    laterMs: number | null;
    onchoose: () => void;
    ontoggle: () => void;
  }
  let {
    line,
    load,
    top,
    height,
    columns,
    isSelected,
    isOnWay,
    bars,
    width,
    laterMs,
    onchoose,
    ontoggle
  }: Props = $props();

  const { row } = $derived(line);
  const isRow = $derived(line.kind === 'row');
  const isOpen = $derived(line.kind === 'row' && line.isOpen);
  const canOpen = $derived(isRow && row.members.length > 1);
  const label = $derived(lineLabel(line, load));
  /** The one resource it stands for. */
  const resource = $derived.by(() => {
    if (row.of !== 'resource') return null;
    if (line.kind === 'member') return load.resources[line.index];
    return isRow && row.members.length === 1 ? load.resources[row.members[0]] : null;
  });
  const bytes = $derived(resource ? resource.transferBytes : isRow ? row.bytes : null);
  const size = $derived(
    bytes !== null ? formatBytes(bytes) : row.of === 'resource' && line.kind !== 'rest' ? '–' : ''
  );
</script>

<!-- svelte-ignore a11y_interactive_supports_focus, a11y_click_events_have_key_events -->
<div
  class="absolute inset-x-0 grid items-center border-b border-grid hover:bg-steer-soft aria-selected:bg-pen-soft"
  style:top="{top}px"
  style:height="{height}px"
  style:grid-template-columns={columns}
  role="row"
  aria-level={isRow ? 1 : 2}
  aria-selected={isSelected}
  aria-expanded={canOpen ? isOpen : undefined}
  aria-label={lineWords(line, load, isOnWay)}
  onclick={onchoose}
  ondblclick={() => canOpen && ontoggle()}
>
  <span class="flex min-w-0 items-center {isRow ? 'pl-1' : 'pl-7'}" role="gridcell">
    {#if isRow}<button
        class="grid size-4 flex-none place-items-center text-ink-3"
        class:invisible={!canOpen}
        tabindex="-1"
        aria-label={isOpen ? 'Fold' : 'Unfold'}
        onclick={ontoggle}
        >{#if isOpen}<ChevronDownIcon size={12} />{:else}<ChevronRightIcon size={12} />{/if}</button
      >{/if}
    <AccountChip account={row.account} />
    <span class="truncate font-mono text-[11.5px]" title={resource?.url ?? label}>{label}</span>
  </span>
  <span class="pr-1 text-right num text-ink-2" role="gridcell"
    >{isRow && row.of === 'resource' ? formatCount(row.members.length) : ''}</span
  >
  <span class="pr-2 text-right num text-ink-2" role="gridcell">{size}</span>
  <span class="relative h-full overflow-hidden" role="gridcell">
    {#if line.kind !== 'rest'}
      <svg class="absolute inset-0" {width} {height} aria-hidden="true">
        <path d={bars} fill={LOOKS[row.account].flat} opacity={isOnWay ? 1 : 0.45} />
      </svg>
      {#if laterMs !== null}<span
          class="absolute inset-y-0 right-3 flex items-center num text-[11px] text-ink-3"
          >{formatDuration(laterMs * 1e6)} ›</span
        >{/if}
    {/if}
  </span>
</div>
