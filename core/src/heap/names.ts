import type { HeapStore } from './heap-store';

/** So many classes a dump is found by at most. */
const MOST = 2000;

/** Classes by which a dump is found, those that retain most first. */
export const namesInHeap = ({ meta }: HeapStore): string[] =>
  meta.classes
    .filter(({ count }) => count > 0)
    .toSorted((a, b) => b.retainedBytes - a.retainedBytes)
    .slice(0, MOST)
    .map(({ name }) => name);
