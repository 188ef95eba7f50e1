/** The items of greatest keys, greatest first: those from a place on. What is asked for is little, however many there are. */
export function greatest(
  items: ArrayLike<number>,
  keyOf: (item: number) => number,
  from: number,
  most: number
): number[] {
  const wanted = from + most;
  // A heap of the best so far, the least of them on top.
  const heap: number[] = [];
  const keys: number[] = [];
  const swap = (a: number, b: number): void => {
    [heap[a], heap[b], keys[a], keys[b]] = [heap[b], heap[a], keys[b], keys[a]];
  };
  for (let i = 0; i < items.length; i++) {
    const key = keyOf(items[i]);
    if (heap.length < wanted) {
      heap.push(items[i]);
      keys.push(key);
      for (let at = heap.length - 1; at > 0 && keys[(at - 1) >> 1] > keys[at]; at = (at - 1) >> 1)
        swap(at, (at - 1) >> 1);
    } else if (wanted > 0 && key > keys[0]) {
      heap[0] = items[i];
      keys[0] = key;
      for (let at = 0; ;) {
        let least = at;
        for (const child of [at * 2 + 1, at * 2 + 2])
          if (child < heap.length && keys[child] < keys[least]) least = child;
        if (least === at) break;
        swap(at, least);
        at = least;
      }
    }
  }
  return heap
    .map((item, i) => ({ item, key: keys[i] }))
    .sort((a, b) => b.key - a.key || a.item - b.item)
    .slice(from)
    .map(({ item }) => item);
}
