<script lang="ts">
  import Hint from '$lib/ui/kit/Hint.svelte';
  import { formatCount, formatShare } from '@tromix/core/text/format';
  import type { OpenedProfile, ProfileView } from '$lib/workers/profile.worker';

  interface Props {
    opened: OpenedProfile;
    view: ProfileView;
    selected: number;
    onselect: (node: number) => void;
  }
  let { opened, view, selected, onselect }: Props = $props();

  /** A branch may be thousands deep: its beginning and its end are listed. */
  const HEAD = 20;
  const TAIL = 60;
  const branch = $derived.by(() => {
    const all = view.heaviest.slice(1);
    if (all.length <= HEAD + TAIL) return { nodes: all, leftOut: 0 };
    const nodes = [...all.slice(0, HEAD), ...all.slice(-TAIL)];
    return { nodes, leftOut: all.length - nodes.length };
  });
</script>

<h3 class="mt-3.5 mb-1 heading"><Hint of="heaviestBranch" /></h3>
<ol class="num" aria-label="Heaviest branch">
  {#each branch.nodes as node, i (node)}
    {@const frame = opened.frames[view.nodeFrame[node]]}
    {#if i === HEAD && branch.leftOut > 0}<li class="py-0.5 text-ink-3">
        … {formatCount(branch.leftOut)} more …
      </li>{/if}
    <li class="flex gap-2 border-b border-grid">
      <button
        class="min-w-0 flex-1 truncate py-0.5 text-left hover:underline {frame.kind === 'app'
          ? 'font-semibold'
          : 'text-ink-3'}"
        aria-current={node === selected ? 'true' : undefined}
        title="{frame.name} {frame.file}:{frame.line}"
        onclick={() => onselect(node)}>{frame.name}</button
      >
      <span class="flex-none py-0.5">{formatShare(view.total[node] / view.sum)}</span>
    </li>
  {/each}
</ol>
