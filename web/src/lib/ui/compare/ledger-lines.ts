import type { DifferenceLine } from '@tromix/core/compare/difference-ledger';
import { lineName } from '@tromix/core/compare/words';
import type { Account } from '@tromix/core/trace/account';
import { shortStatement } from '$lib/ui/calls/short-statement';
import { isCallKind, partAccount } from '$lib/ui/endpoint/part-kinds';
import { LOOKS } from '$lib/ui/ledger/accounts';

/** The account whose letter and colour a line carries; null for a service. */
export function lineAccount({ parts: { before, after } }: DifferenceLine): Account | null {
  const { kind } = (after ?? before)!;
  return kind === 'service' ? null : partAccount(kind);
}

/** What a line is about, for a narrow place. */
export function shortName(line: DifferenceLine): string {
  const { kind, name } = (line.parts.after ?? line.parts.before)!;
  if (kind in LOOKS && kind === name) return LOOKS[kind as Account].name;
  return line.replaced
    ? lineName(line).split(' → ').map(shortStatement).join(' → ')
    : shortStatement(lineName(line));
}

export const isCallLine = ({ parts: { before, after } }: DifferenceLine): boolean =>
  isCallKind((after ?? before)!.kind);

/** A line that another service may have been asked in. */
export const isRemoteLine = ({ parts: { before, after } }: DifferenceLine): boolean =>
  ['http', 'rpc', 'messaging'].includes((after ?? before)!.kind);

/** Lines that stand alone, and the sum of the others. */
export function foldLines(
  lines: readonly DifferenceLine[],
  most: number
): { shown: DifferenceLine[]; rest: DifferenceLine[] } {
  // One alone is no shorter as "1 more".
  const at = lines.length <= most + 1 ? lines.length : most;
  return { shown: lines.slice(0, at), rest: lines.slice(at) };
}

/** Several lines added up. */
export const sumOfLines = (
  lines: readonly DifferenceLine[]
): Pick<DifferenceLine, 'differenceNs' | 'byHowOftenNs' | 'byHowLongEachNs'> & {
  ns: { before: number; after: number };
} => {
  const sum = (of: (line: DifferenceLine) => number): number =>
    lines.reduce((all, line) => all + of(line), 0);
  return {
    differenceNs: sum((line) => line.differenceNs),
    byHowOftenNs: sum((line) => line.byHowOftenNs),
    byHowLongEachNs: sum((line) => line.byHowLongEachNs),
    ns: { before: sum((line) => line.perRequest.before.ns), after: sum((line) => line.perRequest.after.ns) }
  };
};
