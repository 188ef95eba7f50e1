<script lang="ts">
  import { waitsPicture, type PictureBox } from '@tromix/core/threads/picture';
  import type { ThreadDump, ThreadFrame } from '@tromix/core/threads/model';
  import type { WaitsFor } from '@tromix/core/threads/waits-for';
  import { barWords, boxWords, cyclePath, linkPath, lockName } from './waits-words';

  interface Props {
    frames: readonly ThreadFrame[];
    dump: ThreadDump;
    waits: WaitsFor;
    unfolded: readonly string[];
    /** Thread chosen; −1 for none. */
    selected: number;
    onselect: (thread: number) => void;
    onunfold: (pool: string) => void;
  }
  let { frames, dump, waits, unfolded, selected, onselect, onunfold }: Props = $props();

  const picture = $derived(waitsPicture(frames, dump, waits, new Set(unfolded)));
  let scroller = $state<HTMLDivElement | null>(null);
  let view = $state({ left: 0, top: 0, width: 820, height: 260 });
  /** Pixels drawn beyond the part in view: scrolling meets what is there already. */
  const BEYOND = 240;
  const inView = ({ x, y, width, height }: Pick<PictureBox, 'x' | 'y' | 'width' | 'height'>): boolean =>
    x < view.left + view.width + BEYOND &&
    x + width > view.left - BEYOND &&
    y < view.top + view.height + BEYOND &&
    y + height > view.top - BEYOND;
  const boxes = $derived(picture.boxes.flatMap((box, index) => (inView(box) ? [{ box, index }] : [])));
  const bars = $derived(
    picture.bars.filter((bar) => {
      const holder = picture.boxes[bar.holder];
      const top = Math.min(bar.top, holder.y);
      return inView({
        x: holder.x,
        y: top,
        width: bar.x - holder.x,
        height: Math.max(bar.bottom, holder.y) - top
      });
    })
  );
  const lockWanted = $derived(selected >= 0 ? waits.queueOf[selected] : -1);
  const isOfLock = (queue: number): boolean =>
    selected >= 0 && (queue === lockWanted || waits.heldQueues[selected].includes(queue));
  const selectedBox = $derived(selected >= 0 ? picture.boxOf[selected] : -1);
  /** The one box that the tab key stops at. */
  const stop = $derived(selectedBox >= 0 ? selectedBox : 0);

  function look(): void {
    if (scroller)
      view = {
        left: scroller.scrollLeft,
        top: scroller.scrollTop,
        width: scroller.clientWidth,
        height: scroller.clientHeight
      };
  }
  $effect(() => {
    void picture;
    const element = scroller;
    if (!element) return;
    look();
    const observer = new ResizeObserver(look);
    observer.observe(element);
    return () => observer.disconnect();
  });

  /** Brings a box into view and the keyboard to it. */
  function go(index: number): void {
    const box = picture.boxes[index];
    if (!box || !scroller) return;
    const { clientWidth, clientHeight } = scroller;
    if (box.x < scroller.scrollLeft || box.x + box.width > scroller.scrollLeft + clientWidth)
      scroller.scrollLeft = Math.max(0, box.x - clientWidth / 3);
    if (box.y < scroller.scrollTop || box.y + box.height > scroller.scrollTop + clientHeight)
      scroller.scrollTop = Math.max(0, box.y - clientHeight / 2);
    look();
    requestAnimationFrame(() =>
      scroller?.querySelector<HTMLElement>(`[data-box="${index}"]`)?.focus({ preventScroll: true })
    );
    if (box.kind !== 'fold' && box.threads.length > 0) onselect(box.threads[0]);
  }
  /** Brings a thread's box into view. */
  export function show(thread: number): void {
    if (picture.boxOf[thread] >= 0) go(picture.boxOf[thread]);
  }

  function choose(index: number): void {
    const box = picture.boxes[index];
    if (box.kind === 'fold') onunfold(box.pool);
    else go(index);
  }

  /** Left is who it waits for, right who waits for it; up and down are its neighbours. */
  function onkeydown(event: KeyboardEvent): void {
    const at = Number((event.target as HTMLElement).dataset.box ?? NaN);
    if (!Number.isInteger(at) || !event.key.startsWith('Arrow')) return;
    event.preventDefault();
    const { boxes: all, cycles } = picture;
    if (event.key === 'ArrowRight') go(all.findIndex(({ parent }) => parent === at));
    else if (event.key === 'ArrowLeft') {
      const cycle = cycles.find((one) => one.boxes.includes(at));
      // In a circle, the one it waits for is the next of it.
      go(cycle ? cycle.boxes[(cycle.boxes.indexOf(at) + 1) % cycle.boxes.length] : all[at].parent);
    } else {
      const column = all.flatMap(({ x, y }, index) => (x === all[at].x ? [{ index, y }] : []));
      column.sort((a, b) => a.y - b.y);
      const place = column.findIndex(({ index }) => index === at) + (event.key === 'ArrowDown' ? 1 : -1);
      if (column[place]) go(column[place].index);
    }
  }

  function drag(event: PointerEvent): void {
    if (event.button !== 0 || (event.target as HTMLElement).closest('button') || !scroller) return;
    const element = scroller;
    const from = { x: event.clientX + element.scrollLeft, y: event.clientY + element.scrollTop };
    element.setPointerCapture(event.pointerId);
    const move = (now: PointerEvent): void => element.scrollTo(from.x - now.clientX, from.y - now.clientY);
    element.addEventListener('pointermove', move);
    element.addEventListener('pointerup', () => element.removeEventListener('pointermove', move), {
      once: true
    });
  }

  const LOOKS: Record<PictureBox['kind'], string> = {
    root: 'bg-ink text-paper',
    cycle: 'bg-ink text-paper',
    thread: 'bg-pen-soft text-ink',
    fold: 'bg-pen-soft text-ink underline decoration-dotted underline-offset-2',
    nobody: 'border border-dashed border-ink-3 text-ink-2'
  };
</script>

{#if picture.boxes.length === 0}
  <div class="grid flex-1 place-items-center bg-sheet px-6 text-center text-ink-2">
    {dump.locks.length > 0
      ? 'No thread in this dump waits for another.'
      : 'This dump names no locks, so it does not show who blocks whom. It does show the threads, their pools and stacks.'}
  </div>
{:else}
  <!-- svelte-ignore a11y_no_noninteractive_element_interactions -->
  <div
    class="relative min-h-0 flex-1 cursor-grab overflow-auto bg-sheet"
    bind:this={scroller}
    onscroll={look}
    onpointerdown={drag}
    {onkeydown}
    role="group"
    aria-label="Who blocks whom: {picture.boxes
      .length} boxes; left is who a thread waits for, right who waits for it"
  >
    <div class="relative" style:width="{picture.width}px" style:height="{picture.height}px">
      <svg class="absolute inset-0" width={picture.width} height={picture.height} aria-hidden="true">
        {#each bars as bar (bar.queue)}
          {@const strong = isOfLock(bar.queue)}
          <path
            d={linkPath(picture, bar)}
            fill="none"
            stroke="var(--acc-lock)"
            stroke-width={strong ? 2.4 : 1.4}
          />
          <rect
            x={bar.x - 2.5}
            y={bar.top}
            width="5"
            height={Math.max(4, bar.bottom - bar.top)}
            fill="var(--acc-lock)"
          />
        {/each}
        {#each picture.cycles as cycle, i (i)}
          <path d={cyclePath(picture, cycle)} fill="none" stroke="var(--alarm)" stroke-width="1.6" />
        {/each}
      </svg>
      {#each bars as bar (bar.queue)}
        {@const { name, about } = barWords(dump, waits, bar)}
        <span
          class="absolute num text-[11px] whitespace-nowrap {isOfLock(bar.queue) ? 'font-semibold' : ''}"
          style:color="var(--lock-ink)"
          style:left="{bar.x - 3}px"
          style:top="{bar.top - 17}px"
          title={about}>{name}</span
        >
      {/each}
      {#each picture.cycles as cycle, i (i)}
        {#each cycle.boxes as box, at (box)}
          {#if inView(picture.boxes[box])}
            <span
              class="absolute num text-[10.5px] whitespace-nowrap text-alarm"
              style:left="{picture.boxes[box].x + 32}px"
              style:top="{picture.boxes[box].y + picture.boxes[box].height + 2}px"
              >waits for {lockName(dump, cycle.locks[at])}{at === cycle.boxes.length - 1 ? ' ↑' : ''}</span
            >
          {/if}
        {/each}
      {/each}
      {#each boxes as { box, index } (index)}
        {@const { name, detail } = boxWords(frames, dump, box)}
        <button
          class="absolute flex flex-col justify-center overflow-hidden rounded-[2px] px-1.5 text-left num leading-[1.25] aria-pressed:outline-2 aria-pressed:outline-pen {LOOKS[
            box.kind
          ]}"
          style:left="{box.x}px"
          style:top="{box.y}px"
          style:width="{box.width}px"
          style:height="{box.height}px"
          data-box={index}
          tabindex={index === stop ? 0 : -1}
          aria-pressed={index === selectedBox}
          title={box.kind === 'fold' ? `Show the ${box.threads.length} threads one by one` : name}
          onclick={() => choose(index)}
        >
          <span class="truncate">{name}</span>
          {#if detail}<span class="truncate text-[10.5px] opacity-80">{detail}</span>{/if}
        </button>
      {/each}
    </div>
  </div>
{/if}
