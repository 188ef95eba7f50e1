<script lang="ts">
  import { LEAST_BELOW, MOST_BELOW } from '$lib/ui/shell/preferences.svelte';

  /** The line between a picture and what stands below it: dragged, or moved by the arrow keys. */
  let {
    label,
    percent,
    onmove
  }: {
    label: string;
    /** How much of the height lies below the line. */
    percent: number;
    onmove: (percent: number) => void;
  } = $props();
  const STEP = 5;

  function onpointerdown(event: PointerEvent): void {
    event.preventDefault();
    const line = event.currentTarget as HTMLElement;
    const { top, height } = line.parentElement!.getBoundingClientRect();
    line.setPointerCapture(event.pointerId);
    const move = ({ clientY }: PointerEvent): void => onmove((1 - (clientY - top) / height) * 100);
    line.addEventListener('pointermove', move);
    line.addEventListener('pointerup', () => line.removeEventListener('pointermove', move), { once: true });
  }
  function onkeydown(event: KeyboardEvent): void {
    const step = { ArrowUp: STEP, ArrowDown: -STEP }[event.key];
    if (!step) return;
    event.preventDefault();
    onmove(percent + step);
  }
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions (a separator that is moved is a widget: WAI-ARIA 1.2) -->
<div
  class="h-[5px] flex-none cursor-row-resize border-t border-rule bg-sheet hover:bg-steer-soft"
  role="separator"
  aria-orientation="horizontal"
  aria-label={label}
  aria-valuenow={Math.round(percent)}
  aria-valuemin={LEAST_BELOW}
  aria-valuemax={MOST_BELOW}
  tabindex="0"
  {onpointerdown}
  {onkeydown}
></div>
