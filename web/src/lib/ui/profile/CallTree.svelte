<script lang="ts">
  import { childLinks } from '@tromix/core/profile/stack-tree';
  import { formatShare } from '@tromix/core/text/format';
  import type { OpenedProfile, ProfileView } from '$lib/workers/profile.worker';
  import { placeOf } from './profile-reading';
  import { formatWeight } from '@tromix/core/profile/units';
  import { virtualRows } from '$lib/ui/tables/virtual-rows';

  interface Props {
    opened: OpenedProfile;
    view: ProfileView;
    found: ReadonlySet<number> | null;
    /** Node that is selected, −1 for none. */
    selected: number;
    onmenu: (event: MouseEvent, node: number) => void;
  }
  let { opened, view, found, selected = $bindable(), onmenu }: Props = $props();

  const ROW = 24;
  /** Nodes whose children are shown; the heaviest branch is open from the start. */
  let open = $state.raw<ReadonlySet<number>>(new Set());
  let scroller = $state<HTMLDivElement | null>(null);
  $effect(() => {
    open = new Set(view.heaviest);
  });
  const links = $derived(childLinks(view.nodeParent));
  const rows = $derived.by(() => {
    const list: { node: number; depth: number; children: number }[] = [];
    const todo = [{ node: 0, depth: 0 }];
    for (let next = todo.pop(); next; next = todo.pop()) {
      const children: number[] = [];
      for (let child = links.firstChild[next.node]; child >= 0; child = links.nextSibling[child])
        if (view.total[child] > 0) children.push(child);
      if (next.node > 0) list.push({ ...next, children: children.length });
      if (next.node > 0 && !open.has(next.node)) continue;
      children.sort((a, b) => view.total[a] - view.total[b] || b - a);
      for (const child of children) todo.push({ node: child, depth: next.depth + (next.node > 0 ? 1 : 0) });
    }
    return list;
  });
  const virtualizer = $derived(virtualRows(scroller, rows.length, ROW));

  function toggle(node: number, to = !open.has(node)): void {
    const next = new Set(open);
    if (to) next.add(node);
    else next.delete(node);
    open = next;
  }

  function onkeydown(event: KeyboardEvent): void {
    const at = rows.findIndex(({ node }) => node === selected);
    if (event.key === 'ArrowRight' && selected >= 0) toggle(selected, true);
    else if (event.key === 'ArrowLeft' && selected >= 0) {
      if (open.has(selected)) toggle(selected, false);
      else if (view.nodeParent[selected] > 0) selected = view.nodeParent[selected];
    } else if (event.key === 'ArrowDown' || event.key === 'ArrowUp') {
      const to = Math.min(rows.length - 1, Math.max(0, at + (event.key === 'ArrowDown' ? 1 : -1)));
      if (rows[to]) selected = rows[to].node;
      $virtualizer.scrollToIndex(to);
    } else return;
    event.preventDefault();
  }
  const COLUMNS = 'grid grid-cols-[minmax(0,1fr)_84px_64px_84px_64px_minmax(0,170px)] items-center';
</script>

<div class="flex min-h-0 min-w-0 flex-1 flex-col bg-sheet">
  <div class="{COLUMNS} border-b border-rule pr-2">
    <span class="column">call</span><span class="column text-right">total</span><span></span><span
      class="column text-right">self</span
    ><span></span><span class="column">where</span>
  </div>
  <div
    class="min-h-0 flex-1 overflow-y-auto"
    bind:this={scroller}
    role="tree"
    aria-label="Call tree"
    tabindex="0"
    aria-activedescendant={selected >= 0 ? `call-${selected}` : undefined}
    {onkeydown}
  >
    <div class="relative" style:height="{$virtualizer.getTotalSize()}px" role="presentation">
      {#each $virtualizer.getVirtualItems() as item (item.key)}
        {@const row = rows[item.index]}
        {#if row}
          {@const frame = opened.frames[view.nodeFrame[row.node]]}
          <!-- svelte-ignore a11y_click_events_have_key_events, a11y_interactive_supports_focus -->
          <div
            id="call-{row.node}"
            class="{COLUMNS} absolute inset-x-0 cursor-pointer border-b border-grid pr-2 num hover:bg-steer-soft aria-selected:bg-pen-soft {found &&
            !found.has(view.nodeFrame[row.node])
              ? 'opacity-45'
              : ''}"
            style:height="{ROW}px"
            style:transform="translateY({item.start}px)"
            role="treeitem"
            aria-level={row.depth + 1}
            aria-selected={row.node === selected}
            aria-expanded={row.children > 0 ? open.has(row.node) : undefined}
            onclick={() => (selected = row.node)}
            ondblclick={() => toggle(row.node)}
            oncontextmenu={(event) => {
              selected = row.node;
              onmenu(event, row.node);
            }}
          >
            <span class="flex min-w-0 items-center" style:padding-left="{6 + Math.min(row.depth, 40) * 12}px">
              <button
                class="w-4 flex-none text-ink-3"
                tabindex="-1"
                aria-label={open.has(row.node) ? 'Fold' : 'Unfold'}
                disabled={row.children === 0}
                onclick={(event) => {
                  event.stopPropagation();
                  toggle(row.node);
                }}>{row.children === 0 ? '' : open.has(row.node) ? '▾' : '▸'}</button
              >
              <span
                class="truncate {frame.kind === 'app' ? 'font-semibold' : 'text-ink-2'}"
                title={frame.name}>{frame.name}</span
              >
            </span>
            <span class="px-2 text-right">{formatWeight(view.total[row.node], opened)}</span>
            <span class="relative h-full px-2 text-right leading-6"
              ><i
                class="absolute inset-y-[3px] left-0 bg-pen-soft"
                style:width="{(view.total[row.node] / view.sum) * 100}%"
              ></i><span class="relative">{formatShare(view.total[row.node] / view.sum)}</span></span
            >
            <span class="px-2 text-right">{formatWeight(view.self[row.node], opened)}</span>
            <span class="px-2 text-right">{formatShare(view.self[row.node] / view.sum)}</span>
            <span class="truncate pl-2 text-ink-3" title={frame.file}>{placeOf(frame)}</span>
          </div>
        {/if}
      {/each}
    </div>
  </div>
</div>
