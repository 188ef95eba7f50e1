import type { DifferenceLedger, DifferenceLine } from './difference-ledger';

/** A kind of time that differs between two sides, and the parts that make it so. */
export interface Cause {
  /** What `kindOf` calls it. */
  kind: string;
  /** After − before, nanoseconds a request: the sum of its lines. The causes together are the whole difference. */
  differenceNs: number;
  /** Of the whole difference; above 1 where others take some of it back, below 0 for those; NaN where there is none. */
  share: number;
  /** The greatest first. */
  lines: DifferenceLine[];
}

/**
 * The difference of two averages as a tree: kinds of time, and under each its parts. What adds to the difference comes first, then what takes from it.
 * @param kindOf the kind of a line, such as its account.
 */
export function causeTree(
  { lines, differenceNs }: Pick<DifferenceLedger, 'lines' | 'differenceNs'>,
  kindOf: (line: DifferenceLine) => string
): Cause[] {
  const byKind = new Map<string, DifferenceLine[]>();
  for (const line of lines) {
    const kind = kindOf(line);
    byKind.set(kind, [...(byKind.get(kind) ?? []), line]);
  }
  const causes = [...byKind].map(([kind, of]): Cause => {
    const sum = of.reduce((all, line) => all + line.differenceNs, 0);
    return { kind, differenceNs: sum, share: differenceNs === 0 ? NaN : sum / differenceNs, lines: of };
  });
  const sign = differenceNs < 0 ? -1 : 1;
  return causes.sort((a, b) => sign * (b.differenceNs - a.differenceNs));
}
