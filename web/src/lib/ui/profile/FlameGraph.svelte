<script lang="ts">
  import type { Frame } from '@tromix/core/profile/model';
  import { formatCount, formatDuration, formatShare } from '@tromix/core/text/format';
  import { preferences } from '$lib/ui/shell/preferences.svelte';
  import { boxAt, clampZoom, indexRows, ROW, trunkRows, WHOLE_ZOOM, zoomAt, type Zoom } from './flame-view';
  import { paintFlame, readPalette, type FlameView } from './flame-painter';

  interface Props {
    opened: { frames: readonly Frame[] };
    view: FlameView;
    /** What the picture is, for those who do not see it. */
    title: string;
    format: (weight: number) => string;
    /** Words for "of the CPU". */
    whole: string;
    /** Frames the search found. */
    found: ReadonlySet<number> | null;
    /** Node of the stack tree that is selected, −1 for none. */
    selected: number;
    tintOf?: (node: number) => number;
    noteOf?: (node: number) => string;
    /** Further lines of the tooltip. */
    moreOf?: (node: number) => string;
    onmenu?: (event: MouseEvent, node: number) => void;
    /** The part of the width that is in view. */
    zoom?: Zoom;
    /** Told over how many pixels it is drawn. */
    onwidth?: (pixels: number) => void;
  }
  let {
    opened,
    view,
    title,
    format,
    whole,
    found,
    selected = $bindable(),
    tintOf,
    noteOf,
    moreOf,
    onmenu,
    zoom = $bindable(WHOLE_ZOOM),
    onwidth
  }: Props = $props();

  let canvas: HTMLCanvasElement;
  let box: HTMLDivElement;
  let width = $state(820);
  let height = $state(296);
  let scrollTop = $state(0);
  let hovered = $state(-1);
  let pointer = $state({ x: 0, y: 0 });
  let fontsReady = $state(false);

  const rows = $derived(indexRows(view.layout));
  const boxOfNode = $derived.by(() => {
    const map = new Map<number, number>();
    view.layout.node.forEach((node, i) => map.set(node, i));
    return map;
  });
  const selectedBox = $derived(boxOfNode.get(selected) ?? -1);
  /** What every stack shares at the top is folded into a thin line until it is opened. */
  const trunk = $derived(trunkRows(view.layout, rows, (node) => view.self[node] >= BURNS * view.sum));
  /** So much of all by itself is worth seeing. */
  const BURNS = 0.02;
  let trunkOpen = $state(false);
  const TRUNK = 18;
  /** Pixels of the picture above what is drawn. */
  const hiddenTop = $derived(trunk > 0 && !trunkOpen ? trunk * ROW - TRUNK : 0);
  const contentHeight = $derived(view.layout.rows * ROW + 10 - hiddenTop);

  let frame = 0;
  $effect(() => {
    void [preferences.theme, fontsReady];
    const picture = {
      opened,
      view,
      rows,
      zoom,
      scrollTop: scrollTop + hiddenTop,
      width,
      height,
      found,
      selected: selectedBox,
      hovered,
      tintOf,
      noteOf
    };
    const ratio = window.devicePixelRatio || 1;
    cancelAnimationFrame(frame);
    frame = requestAnimationFrame(() => {
      const context = canvas?.getContext('2d');
      if (!context) return;
      const [w, h] = [Math.round(width * ratio), Math.round(height * ratio)];
      if (canvas.width !== w) canvas.width = w;
      if (canvas.height !== h) canvas.height = h;
      paintFlame(context, picture, readPalette(), ratio);
    });
    return () => cancelAnimationFrame(frame);
  });

  $effect(() => {
    void document.fonts.load("11.5px 'Source Code Pro Variable'").then(() => (fontsReady = true));
    // The wheel zooms, so it must not be passive; Svelte's own handlers are.
    box.addEventListener('wheel', onwheel, { passive: false });
    return () => box.removeEventListener('wheel', onwheel);
  });

  $effect(() => onwidth?.(width));

  const partAt = (px: number): number => zoom.from + (px / width) * (zoom.to - zoom.from);
  function hit(event: PointerEvent | MouseEvent): number {
    const bounds = canvas.getBoundingClientRect();
    return boxAt(
      view.layout,
      rows,
      partAt(event.clientX - bounds.left),
      Math.floor((event.clientY - bounds.top - 4 + scrollTop + hiddenTop) / ROW)
    );
  }

  function onwheel(event: WheelEvent): void {
    if (event.ctrlKey || event.metaKey || event.altKey) {
      event.preventDefault();
      const bounds = canvas.getBoundingClientRect();
      zoom = zoomAt(zoom, partAt(event.clientX - bounds.left), Math.exp(event.deltaY * 0.0022));
    } else if (event.deltaX !== 0 || event.shiftKey) {
      event.preventDefault();
      pan(((event.deltaX || event.deltaY) / width) * (zoom.to - zoom.from));
    }
  }

  const pan = (by: number): void => void (zoom = clampZoom({ from: zoom.from + by, to: zoom.to + by }));

  let dragging = false;
  function onpointerdown(event: PointerEvent): void {
    if (event.button !== 0) return;
    const began = { x: event.clientX, y: event.clientY, zoom, top: box.scrollTop };
    dragging = false;
    canvas.setPointerCapture(event.pointerId);
    const move = (moved: PointerEvent): void => {
      const [dx, dy] = [moved.clientX - began.x, moved.clientY - began.y];
      if (!dragging && Math.hypot(dx, dy) < 4) return;
      dragging = true;
      const by = (-dx / width) * (began.zoom.to - began.zoom.from);
      zoom = clampZoom({ from: began.zoom.from + by, to: began.zoom.to + by });
      box.scrollTop = began.top - dy;
    };
    canvas.addEventListener('pointermove', move);
    canvas.addEventListener('pointerup', () => canvas.removeEventListener('pointermove', move), {
      once: true
    });
  }

  function onclick(event: MouseEvent): void {
    if (dragging) return;
    const at = hit(event);
    if (at >= 0) selected = view.layout.node[at];
  }

  /** Zooms so that a box fills the width. */
  export function zoomTo(node: number): void {
    const at = boxOfNode.get(node);
    if (at === undefined) return;
    const { x, width: w, depth } = view.layout;
    zoom = clampZoom({ from: x[at], to: x[at] + w[at] });
    reveal(depth[at]);
  }

  function reveal(depth: number): void {
    if (depth < trunk) trunkOpen = true;
    const top = depth * ROW - hiddenTop;
    if (top < box.scrollTop || top + ROW * 2 > box.scrollTop + height)
      box.scrollTop = Math.max(0, top - height / 2);
  }

  /** Makes the selected box visible. @param keepZoom only by scrolling, where an address says what is in view */
  export function show(node: number, keepZoom = false): void {
    const at = boxOfNode.get(node);
    if (at === undefined) return;
    const { x, width: w, depth } = view.layout;
    if (keepZoom) return reveal(depth[at]);
    if (x[at] + w[at] <= zoom.from || x[at] >= zoom.to) zoom = WHOLE_ZOOM;
    reveal(depth[at]);
  }

  function step(key: string): number {
    const { layout } = view;
    if (selectedBox < 0) return 0;
    const depth = layout.depth[selectedBox];
    switch (key) {
      case 'ArrowUp':
        return layout.parent[selectedBox];
      case 'ArrowDown': {
        for (
          let at = rows.start[depth + 1] ?? -1;
          depth + 1 < layout.rows && at < rows.start[depth + 2];
          at++
        )
          if (layout.parent[at] === selectedBox) return at;
        return -1;
      }
      case 'ArrowLeft':
        return selectedBox > rows.start[depth] ? selectedBox - 1 : -1;
      default:
        return selectedBox + 1 < rows.start[depth + 1] ? selectedBox + 1 : -1;
    }
  }

  function onkeydown(event: KeyboardEvent): void {
    if ((event.key === 'ContextMenu' || (event.key === 'F10' && event.shiftKey)) && selectedBox >= 0) {
      event.preventDefault();
      onmenu?.(event as unknown as MouseEvent, selected);
    } else if (event.key.startsWith('Arrow') && !event.shiftKey) {
      event.preventDefault();
      const at = step(event.key);
      if (at < 0) return;
      selected = view.layout.node[at];
      show(selected);
    } else if (event.key === 'Enter' && selectedBox >= 0) zoomTo(selected);
    else if (event.key === 'Escape' || event.key === '0') zoom = WHOLE_ZOOM;
    else if (event.key === '+' || event.key === '=') zoom = zoomAt(zoom, (zoom.from + zoom.to) / 2, 0.6);
    else if (event.key === '-') zoom = zoomAt(zoom, (zoom.from + zoom.to) / 2, 1.6);
    else if (event.key === 'ArrowLeft' || event.key === 'ArrowRight') {
      event.preventDefault();
      pan((event.key === 'ArrowLeft' ? -0.15 : 0.15) * (zoom.to - zoom.from));
    }
  }

  /** Idle stretches that are closed up, where they are in view, pixels from the left. */
  const closed = $derived(
    (view.closed ?? [])
      .map(({ x, width: part, ns }) => ({
        left: ((x - zoom.from) / (zoom.to - zoom.from)) * width,
        px: (part / (zoom.to - zoom.from)) * width,
        ns
      }))
      // Of hundreds none could be told from the next: the tools say how many there are.
      .filter(({ left, px }) => left + px > 0 && left < width && px >= 2)
  );
  const hoverFacts = $derived.by(() => {
    if (hovered < 0 || hovered >= view.layout.node.length) return null;
    const node = view.layout.node[hovered];
    return {
      frame: opened.frames[view.nodeFrame[node]],
      self: view.self[node],
      total: view.total[node],
      more: moreOf?.(node) ?? ''
    };
  });
  const words = $derived.by(() => {
    if (selectedBox < 0)
      return `${title}, ${formatCount(view.layout.node.length)} frames, ${view.layout.rows} deep. Arrow keys choose a frame.`;
    const frame = opened.frames[view.nodeFrame[selected]];
    return `${frame.name}, self ${formatShare(view.self[selected] / view.sum)}, total ${formatShare(view.total[selected] / view.sum)} of the ${whole} selected`;
  });
</script>

<div class="relative min-h-0 flex-1 bg-sheet">
  <!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
  <div
    class="absolute inset-0 overflow-x-hidden overflow-y-auto"
    bind:this={box}
    bind:clientWidth={width}
    bind:clientHeight={height}
    role="application"
    aria-label={words}
    tabindex="0"
    {onkeydown}
    onscroll={() => (scrollTop = box.scrollTop)}
  >
    <div style:height="{contentHeight}px">
      <canvas
        bind:this={canvas}
        class="sticky top-0 block w-full"
        style:height="{height}px"
        data-testid="flame"
        data-took={view.tookMs.toFixed(2)}
        {onpointerdown}
        {onclick}
        oncontextmenu={(event) => {
          const at = hit(event);
          if (at < 0 || !onmenu) return;
          selected = view.layout.node[at];
          onmenu(event, selected);
        }}
        ondblclick={(event) => {
          const at = hit(event);
          if (at >= 0) zoomTo(view.layout.node[at]);
        }}
        onpointermove={(event) => {
          hovered = hit(event);
          const bounds = box.getBoundingClientRect();
          pointer = { x: event.clientX - bounds.left, y: event.clientY - bounds.top };
        }}
        onpointerleave={() => (hovered = -1)}
      ></canvas>
    </div>
  </div>
  {#if trunk > 0 && !trunkOpen}
    <button
      class="absolute inset-x-0 top-0 z-10 flex h-[18px] items-center gap-1 border-b border-grid bg-paper px-2 text-left text-[11px] text-ink-2 hover:bg-steer-soft"
      aria-expanded="false"
      onclick={() => (trunkOpen = true)}
      ><span aria-hidden="true">▸</span>{formatCount(trunk)} frames that nearly every stack shares</button
    >
  {/if}
  {#each closed as { left, px, ns }, i (i)}
    <div
      class="absolute inset-y-0 text-ink-3"
      style:left="{left}px"
      style:width="{px}px"
      style:background="repeating-linear-gradient(135deg, var(--rule) 0 1px, transparent 1px 4px)"
      title="Idle for {formatDuration(ns)}, closed up"
    ></div>
  {/each}
  {#if hoverFacts}
    <div
      class="pointer-events-none absolute pop z-20 max-w-md px-2.5 py-1.5"
      style:left="{Math.max(4, Math.min(pointer.x + 14, width - 300))}px"
      style:top={pointer.y > height - 96 ? undefined : `${pointer.y + 16}px`}
      style:bottom={pointer.y > height - 96 ? `${height - pointer.y + 8}px` : undefined}
      role="tooltip"
    >
      <p class="font-mono text-[12px] font-semibold break-all">{hoverFacts.frame.name}</p>
      <p class="truncate text-[11px] text-ink-3">
        {hoverFacts.frame.file}{hoverFacts.frame.line ? `:${hoverFacts.frame.line}` : ''}
        {hoverFacts.frame.package || hoverFacts.frame.kind}
      </p>
      <p class="num">
        self {format(hoverFacts.self)} · {formatShare(hoverFacts.self / (view.sum || 1))}, total {format(
          hoverFacts.total
        )} · {formatShare(hoverFacts.total / (view.sum || 1))}
      </p>
      {#if hoverFacts.more}<p class="num">{hoverFacts.more}</p>{/if}
    </div>
  {/if}
  <div class="absolute top-1.5 right-3 flex gap-1.5">
    {#if trunkOpen}<button class="button bg-sheet" aria-expanded="true" onclick={() => (trunkOpen = false)}
        >Fold what is shared</button
      >{/if}
    {#if zoom.from > 0 || zoom.to < 1}<button class="button bg-sheet" onclick={() => (zoom = WHOLE_ZOOM)}
        >Show all</button
      >{/if}
  </div>
</div>
