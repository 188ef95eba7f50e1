import { formatBytes, formatCount, formatDuration, formatDurationRange } from '@tromix/core/text/format';
import type { HeapCost } from './heap-cost';

/** What a heap dump will take, before it is taken. */
export function heapCostWords(cost: HeapCost): string {
  const { freeBytes, ms, bytes } = cost;
  const fits =
    bytes.high <= freeBytes ? '' : bytes.low <= freeBytes ? ' It may not fit.' : ' It does not fit.';
  return `${heapWords(cost)} A dump stops it for about ${formatDurationRange(ms.low * 1e6, ms.high * 1e6)} and takes ${formatBytes(bytes.low)} to ${formatBytes(bytes.high)} of the ${formatBytes(freeBytes)} that are free.${fits}`;
}

/** What is in the heap, and what it took to tell. */
export function heapWords({ objects, counted, heapBytes, countMs }: HeapCost): string {
  const heap = `Its heap holds ${formatBytes(heapBytes)}`;
  return counted
    ? `${heap} in ${formatCount(objects)} objects; counting them stopped it for about ${formatDuration(countMs * 1e6)}.`
    : `${heap}, in ${formatCount(objects)} objects at most.`;
}
