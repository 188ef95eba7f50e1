/**
 * The rank of each value among all of them, from 1; equal values share the mean of theirs.
 * Source: mid-ranks, as every rank test uses them (Lehmann, "Nonparametrics", 1975).
 */
export function midRanks(values: ArrayLike<number>): Float64Array {
  const order = sortedOrder(values);
  const ranks = new Float64Array(values.length);
  for (let from = 0; from < order.length;) {
    let to = from + 1;
    while (to < order.length && values[order[to]] === values[order[from]]) to++;
    const rank = (from + 1 + to) / 2;
    for (let i = from; i < to; i++) ranks[order[i]] = rank;
    from = to;
  }
  return ranks;
}

/** The places of values in ascending order; of equal ones the earlier first. */
export function sortedOrder(values: ArrayLike<number>): Uint32Array {
  return Uint32Array.from({ length: values.length }, (_, i) => i).sort(
    (a, b) => values[a] - values[b] || a - b
  );
}
