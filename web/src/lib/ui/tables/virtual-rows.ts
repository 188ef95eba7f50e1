import { createVirtualizer, type SvelteVirtualizer } from '@tanstack/svelte-virtual';
import type { Readable } from 'svelte/store';

/** Rows of one height in an element that scrolls, of which only those in view are drawn. */
export function virtualRows(
  element: HTMLDivElement | null,
  count: number,
  height: number
): Readable<SvelteVirtualizer<HTMLDivElement, Element>> {
  return createVirtualizer({
    count,
    getScrollElement: () => element,
    estimateSize: () => height,
    overscan: 8
  });
}
