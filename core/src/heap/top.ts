/** The items of greatest keys, greatest first, of equal ones the least item; those from a place on. What is asked for is little, however many there are. */
export function greatest(
  items: ArrayLike<number>,
  keyOf: (item: number) => number,
  from: number,
  most: number
): number[] {
  return best(items, keyOf, from + most, null)
    .slice(from)
    .map(({ item }) => item);
}

interface Ranked {
  item: number;
  key: number;
}

/** Negative where the first comes before the second. */
const order = (a: Ranked, b: Ranked): number => b.key - a.key || a.item - b.item;

/** The first of all items in order, which come after one of them. */
function best(
  items: ArrayLike<number>,
  keyOf: (item: number) => number,
  wanted: number,
  after: Ranked | null
): Ranked[] {
  // A heap of the best so far, the last of them on top.
  const heap: number[] = [];
  const keys: number[] = [];
  const comesLater = (a: number, b: number): boolean =>
    keys[a] < keys[b] || (keys[a] === keys[b] && heap[a] > heap[b]);
  const swap = (a: number, b: number): void => {
    [heap[a], heap[b], keys[a], keys[b]] = [heap[b], heap[a], keys[b], keys[a]];
  };
  for (let i = 0; i < items.length; i++) {
    const item = items[i];
    const key = keyOf(item);
    if (after && (key > after.key || (key === after.key && item <= after.item))) continue;
    if (heap.length < wanted) {
      heap.push(item);
      keys.push(key);
      for (let at = heap.length - 1; at > 0 && comesLater(at, (at - 1) >> 1); at = (at - 1) >> 1)
        swap(at, (at - 1) >> 1);
    } else if (wanted > 0 && (key > keys[0] || (key === keys[0] && item < heap[0]))) {
      heap[0] = item;
      keys[0] = key;
      for (let at = 0; ;) {
        let last = at;
        for (const child of [at * 2 + 1, at * 2 + 2])
          if (child < heap.length && comesLater(child, last)) last = child;
        if (last === at) break;
        swap(at, last);
        at = last;
      }
    }
  }
  return heap.map((item, i) => ({ item, key: keys[i] })).sort(order);
}

/** Items in order that are found at once. */
const BLOCK = 65_536;

/**
 * As `greatest`, but all of the items, one after another: they may be more than an array of objects has room for.
 * @param block items found at once, each time by going through all.
 */
export function* descending(
  items: ArrayLike<number>,
  keyOf: (item: number) => number,
  block = BLOCK
): Generator<number> {
  let last: Ranked | null = null;
  do {
    const found = best(items, keyOf, block, last);
    for (const { item } of found) yield item;
    last = found.at(-1) ?? null;
  } while (last);
}
