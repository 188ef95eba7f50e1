<script lang="ts">
  import { childLinks } from '@tromix/core/profile/stack-tree';
  import { formatShare } from '@tromix/core/text/format';
  import type { OpenedProfile, ProfileView } from '$lib/workers/profile.worker';
  import { placeOf } from './profile-reading';
  import { formatWeight } from '@tromix/core/profile/units';
  import VirtualList from '$lib/ui/tables/VirtualList.svelte';

  interface Props {
    opened: OpenedProfile;
    view: ProfileView;
    found: ReadonlySet<number> | null;
    /** Node that is selected, −1 for none. */
    selected: number;
    onmenu: (event: MouseEvent, node: number) => void;
  }
  let { opened, view, found, selected = $bindable(), onmenu }: Props = $props();

  /** Nodes whose children are shown; the heaviest branch is open from the start. */
  let open = $state.raw<ReadonlySet<number>>(new Set());
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

  function toggle(node: number, to = !open.has(node)): void {
    const next = new Set(open);
    if (to) next.add(node);
    else next.delete(node);
    open = next;
  }

  /** Left folds, or goes to the caller; right unfolds. */
  function onkey({ key }: KeyboardEvent): boolean {
    if (selected < 0 || (key !== 'ArrowRight' && key !== 'ArrowLeft')) return false;
    if (key === 'ArrowRight') toggle(selected, true);
    else if (open.has(selected)) toggle(selected, false);
    else if (view.nodeParent[selected] > 0) selected = view.nodeParent[selected];
    return true;
  }
</script>

<div class="flex min-h-0 min-w-0 flex-1 flex-col bg-sheet">
  <VirtualList
    label="Call tree"
    role="tree"
    columns="grid grid-cols-[minmax(0,1fr)_84px_64px_84px_64px_minmax(0,170px)] items-center"
    {rows}
    idOf={({ node }) => `call-${node}`}
    isSelected={({ node }) => node === selected}
    onselect={({ node }) => (selected = node)}
    attributesOf={(row) => ({
      class: found && !found.has(view.nodeFrame[row.node]) ? 'opacity-45' : '',
      'aria-level': row.depth + 1,
      'aria-expanded': row.children > 0 ? open.has(row.node) : undefined,
      ondblclick: () => toggle(row.node),
      oncontextmenu: (event) => {
        selected = row.node;
        onmenu(event, row.node);
      }
    })}
    {onkey}
  >
    {#snippet head()}
      <span class="column">call</span><span class="column text-right">total</span><span></span><span
        class="column text-right">self</span
      ><span></span><span class="column">where</span>
    {/snippet}
    {#snippet row(row)}
      {@const frame = opened.frames[view.nodeFrame[row.node]]}
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
        <span class="truncate {frame.kind === 'app' ? 'font-semibold' : 'text-ink-2'}" title={frame.name}
          >{frame.name}</span
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
    {/snippet}
  </VirtualList>
</div>
