import { ByteReader, ByteWriter } from '@tromix/core/counters/bytes';
import { addBin, type Bins } from '@tromix/core/counters/bins';
import {
  readCoarse,
  readNear,
  readNumbers,
  writeCoarse,
  writeNear,
  writeNumbers
} from '@tromix/core/counters/columns';
import { pack, unpack } from './block';

/** What a bin holds, see core/counters/bins.ts, by its number since the epoch. */
export interface SumRow {
  bin: number;
  weight: number;
  sum: number;
  max: number;
}

/**
 * Bins as bytes, ascending. Sums with many digits are kept to seven, the greatest value to four: they are drawn, and points are there for what
 * must be exact.
 */
export function encodeSums(rows: readonly SumRow[]): Uint8Array {
  const writer = new ByteWriter();
  writer.count(rows.length);
  writeNear(
    writer,
    rows.map(({ bin }) => bin)
  );
  for (const column of ['weight', 'sum'] as const)
    writeNumbers(
      writer,
      Float64Array.from(rows, (row) => row[column]),
      true
    );
  writeCoarse(
    writer,
    rows.map(({ max }) => max)
  );
  return pack(writer.take());
}

/** Bins as columns of equal length. */
export interface SumColumns {
  bin: Float64Array;
  weight: Float64Array;
  sum: Float64Array;
  max: Float64Array;
}

/** @throws RangeError or Error where the bytes are damaged */
export function decodeSums(bytes: Uint8Array): SumColumns {
  const reader = new ByteReader(unpack(bytes));
  const length = reader.count();
  const bin = readNear(reader, length);
  const [weight, sum] = [readNumbers(reader, length), readNumbers(reader, length)];
  const max = readCoarse(reader, length);
  // Of a bin of one value, or of equal ones, all digits are known.
  for (let i = 0; i < length; i++) max[i] = Math.max(max[i], sum[i] / weight[i]);
  return { bin, weight, sum, max };
}

export const rowsOfSums = ({ bin, weight, sum, max }: SumColumns): SumRow[] =>
  Array.from(bin, (number, i) => ({ bin: number, weight: weight[i], sum: sum[i], max: max[i] }));

/** The bins that hold something; of weights what adding up small parts leaves beyond the milliseconds goes. */
export const rowsOfBins = ({ fromMs, stepMs, weight, sum, max }: Bins): SumRow[] =>
  Array.from(weight, (_, i) => ({
    bin: fromMs / stepMs + i,
    weight: Math.round(weight[i] * 1000) / 1000,
    sum: sum[i],
    max: max[i]
  })).filter((row) => row.weight > 0);

/**
 * Adds sums to bins that are as long or longer.
 * @param stepMs length of a bin of the sums
 * @param beforeMs epoch milliseconds: bins from there on are left out
 */
export function addSums(bins: Bins, of: SumColumns, stepMs: number, beforeMs = Infinity): void {
  for (let i = 0; i < of.bin.length; i++) {
    const atMs = of.bin[i] * stepMs;
    const at = Math.floor((atMs - bins.fromMs) / bins.stepMs);
    if (at >= 0 && at < bins.weight.length && atMs < beforeMs)
      addBin(bins, at, of.weight[i], of.sum[i], of.max[i]);
  }
}
