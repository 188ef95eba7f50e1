<script lang="ts">
  import type { HolderBox } from '@tromix/core/heap/holders';
  import { formatBytes, formatCount, formatShare } from '@tromix/core/text/format';
  import { layOutHolders, type MapBox } from './treemap';

  interface Props {
    boxes: HolderBox[];
    /** Bytes that are alive. */
    whole: number;
    selected: number;
    onselect: (object: number) => void;
    onclass: (name: string) => void;
  }
  let { boxes, whole, selected, onselect, onclass }: Props = $props();

  let width = $state(820);
  let height = $state(190);
  const laid = $derived(layOutHolders(boxes, width, height));

  const words = (box: MapBox): string =>
    `${box.name || 'the rest'}${box.count > 1 ? ` × ${formatCount(box.count)}` : ''}, ${formatBytes(box.bytes)}, ${formatShare(box.bytes / Math.max(1, whole))}`;
  function choose(box: MapBox): void {
    if (box.inner && box.count > 1) onclass(box.className);
    else if (box.object >= 0) onselect(box.object);
  }
  /** Darker is a larger part of the heap. */
  const tint = (box: MapBox): string =>
    `color-mix(in oklab, var(--pen) ${Math.round(12 + (box.inner ? 28 : 18) * Math.sqrt(box.bytes / Math.max(1, whole)))}%, var(--sheet))`;
</script>

<div
  class="relative min-h-0 flex-1 bg-sheet"
  bind:clientWidth={width}
  bind:clientHeight={height}
  role="group"
  aria-label="What holds the heap: areas are bytes"
>
  {#each laid as box, i (i)}
    <button
      class="absolute flex items-start overflow-hidden rounded-[2px] border border-sheet px-1.5 text-left num text-[11.5px] leading-[18px] whitespace-nowrap hover:outline-2 hover:outline-steer aria-pressed:outline-2 aria-pressed:outline-pen"
      style:left="{box.x}px"
      style:top="{box.y}px"
      style:width="{Math.max(1, box.width)}px"
      style:height="{Math.max(1, box.height)}px"
      style:background={tint(box)}
      style:z-index={box.inner ? 1 : 0}
      aria-pressed={box.object >= 0 && box.object === selected && !box.inner}
      aria-label={words(box)}
      title={words(box)}
      disabled={box.object < 0}
      onclick={() => choose(box)}
    >
      {#if box.width > 44 && box.height > 15}
        <span class="block truncate"
          ><b class={box.own && !box.inner ? 'font-semibold' : 'font-normal'}>{box.name}</b>{box.count > 1
            ? `\u00a0× ${formatCount(box.count)}`
            : ''}
          <span
            >{formatBytes(box.bytes)}{box.inner
              ? ''
              : ` · ${formatShare(box.bytes / Math.max(1, whole))}`}</span
          ></span
        >
      {/if}
    </button>
  {/each}
</div>
