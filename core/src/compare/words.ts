import { formatCount, formatDuration, formatShare, plural } from '../text/format';
import type { Sides } from '../sides';
import type { Comparison, SideNote } from './comparison';
import type { DifferenceLine } from './difference-ledger';
import { LEAST_SAMPLES, type Change, type HowSure, type Statistic } from './how-sure';

const NAMES: Record<Statistic, string> = { median: 'median', p95: 'p95' };
/** With four times the requests half the change can be seen: chance shrinks with the root of their number. */
const MORE = 4;

/** The verdict in one sentence: which figure it is about, by how much, and how sure that is. */
export function verdictSentence({ sure }: Pick<Comparison, 'sure'>): string {
  const { verdict, about, count } = sure;
  if (verdict === 'too few')
    return `Too few requests to tell: ${formatCount(count.before)} and ${formatCount(count.after)}, and each side needs ${LEAST_SAMPLES}.`;
  if (about === null)
    return `No clear change: ${changeWords('median', sure.changes.median!)}. ${visibleWords(sure)}`.trim();
  const clear = `Clearly ${verdict}: ${changeWords(about, sure.changes[about]!)}.`;
  return about === 'median'
    ? `${clear} A request of B is faster than one of A in ${formatShare(sure.faster!)} of pairs.`
    : `${clear} The ${NAMES.median} shows no clear change: ${changeWords('median', sure.changes.median!)}.`;
}

/** `median 84 ms → 31 ms, −66 % to −59 %`. */
export function changeWords(statistic: Statistic, { sides, differenceWithin, ratioWithin }: Change): string {
  const within = ratioWithin
    ? `${signedShare(ratioWithin.low - 1)} to ${signedShare(ratioWithin.high - 1)}`
    : `${signedDuration(differenceWithin.low)} to ${signedDuration(differenceWithin.high)}`;
  return `${NAMES[statistic]} ${formatDuration(sides.before)} → ${formatDuration(sides.after)}, ${within}`;
}

function visibleWords({ visible, count }: HowSure): string {
  if (visible === null || !Number.isFinite(visible) || visible === 0) return '';
  const requests = `${formatCount(count.before)} and ${formatCount(count.after)} requests`;
  const more = `${formatCount(MORE * count.before)} and ${formatCount(MORE * count.after)}`;
  return `A change under ${formatShare(visible)} could not have been seen with these ${requests}; ${more} would show ${formatShare(visible / Math.sqrt(MORE))}.`;
}

/** `−12 ms`, `+3 %`: a sign on everything but nothing. */
const signed = (text: string, value: number): string => (value > 0 ? `+${text}` : text);
export const signedDuration = (ns: number): string => signed(formatDuration(ns), Math.round(ns));
export const signedShare = (share: number): string =>
  share < 0 ? `−${formatShare(-share)}` : signed(formatShare(share), share);

/** `214 × → 1 ×`, for one request. */
export const callsWords = ({ before, after }: DifferenceLine['perRequest']): string =>
  `${callCount(before.calls)} × → ${callCount(after.calls)} ×`;
const callCount = (calls: number): string => formatCount(Number(calls.toPrecision(3)));

/** The name of a line; of both calls where one replaced the other. */
export function lineName({ parts: { before, after }, replaced }: DifferenceLine): string {
  const name = (after ?? before)!.name || '(no name)';
  return replaced ? `${before!.name} → ${name}` : name;
}

/** What must be known before the figures, in words. */
export function noteWords(note: SideNote): string {
  switch (note.code) {
    case 'empty':
      return `Side ${SIDE[note.side]} has no requests.`;
    case 'few':
      return `Side ${SIDE[note.side]} has only ${plural(note.requests, 'request')}.`;
    case 'overlap':
      return 'The sides overlap in time: what changed on the machine meanwhile changed both.';
    case 'same':
      return 'Both sides are the same requests.';
  }
}
export const SIDE: Sides<string> = { before: 'A', after: 'B' };
