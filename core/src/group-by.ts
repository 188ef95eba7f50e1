/** Items by a key, in the order the keys first came. A Map, because keys come from outside. */
export function groupBy<T, Key>(items: Iterable<T>, keyOf: (item: T) => Key): Map<Key, T[]> {
  const groups = new Map<Key, T[]>();
  for (const item of items) {
    const key = keyOf(item);
    const known = groups.get(key);
    if (known) known.push(item);
    else groups.set(key, [item]);
  }
  return groups;
}
