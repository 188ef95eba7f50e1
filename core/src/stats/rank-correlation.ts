import { midRanks } from './ranks';

/**
 * Spearman's rank correlation: how far two rise and fall together, from −1 to 1; null with fewer than three pairs, or where one of them never changes.
 * Source: Pearson's correlation of the mid-ranks (Spearman, 1904; any textbook of statistics).
 */
export function rankCorrelation(xs: ArrayLike<number>, ys: ArrayLike<number>): number | null {
  const n = Math.min(xs.length, ys.length);
  if (n < 3) return null;
  const [a, b] = [midRanks(xs), midRanks(ys)];
  const mean = (n + 1) / 2;
  let [ab, aa, bb] = [0, 0, 0];
  for (let i = 0; i < n; i++) {
    ab += (a[i] - mean) * (b[i] - mean);
    aa += (a[i] - mean) ** 2;
    bb += (b[i] - mean) ** 2;
  }
  return aa > 0 && bb > 0 ? ab / Math.sqrt(aa * bb) : null;
}
