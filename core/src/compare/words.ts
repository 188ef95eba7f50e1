import { formatCount, formatDuration, formatShare, plural } from '../text/format';
import type { Sides } from '../sides';
import type { Comparison, SideNote } from './comparison';
import type { DifferenceLine } from './difference-ledger';
import { askedOfMedian, LEAST_SAMPLES, type Change, type HowSure, type Statistic } from './how-sure';

const NAMES: Record<Statistic, string> = { median: 'median', p95: 'p95' };
/** With four times the requests half the change can be seen: chance shrinks with the root of their number. */
const MORE = 4;

/** The verdict in one sentence: which figure it is about, by how much, and how sure that is. */
export function verdictSentence({ sure, figures }: Pick<Comparison, 'sure' | 'figures'>): string {
  const { verdict, about, count } = sure;
  if (verdict === 'only sums')
    return `Median ${formatDuration(figures.before.median)} → ${formatDuration(figures.after.median)}. How sure that is, is not told: single requests are no longer kept.`;
  if (verdict === 'too few')
    return `Too few requests to tell: ${formatCount(count.before)} and ${formatCount(count.after)}, and each side needs ${LEAST_SAMPLES}.`;
  if (about === null)
    return [
      `No clear change: ${changeWords('median', sure.changes.median!)}.`,
      whyUnclear(sure),
      visibleWords(sure)
    ]
      .filter(Boolean)
      .join(' ');
  const clear = `Clearly ${verdict}: ${changeWords(about, sure.changes[about]!)}.`;
  return about === 'median'
    ? `${clear} A request of B is faster than one of A in ${formatShare(sure.faster!)} of pairs.`
    : `${clear} The ${NAMES.median} shows no clear change: ${changeWords('median', sure.changes.median!)}.`;
}

/** What changed, as a headline. @param sure null while it is being worked out */
export function headline(name: string, figures: Comparison['figures'], sure: HowSure | null): string {
  const { before, after } = figures;
  const of = (statistic: Statistic): string =>
    `${formatDuration(before[statistic])} → ${formatDuration(after[statistic])}`;
  if (Number.isNaN(before.median) || Number.isNaN(after.median))
    return `${name}: nothing to hold against each other`;
  if (sure?.about === 'median')
    return `${name} takes ${formatDuration(after.median)} at the median instead of ${formatDuration(before.median)}`;
  if (sure?.about === 'p95')
    return `${name} takes ${formatDuration(after.p95)} at p95 instead of ${formatDuration(before.p95)}`;
  if (sure?.verdict === 'no clear change') return `${name}: no clear change, median ${of('median')}`;
  return `${name}: median ${of('median')}`;
}

/** What stands behind the headline, sentence by sentence. */
export function sureSentences({
  sure,
  figures,
  requests
}: Pick<Comparison, 'sure' | 'figures' | 'requests'>): string[] {
  const counted = `${formatCount(requests.before)} and ${formatCount(requests.after)} requests.`;
  const p95 = `p95 ${formatDuration(figures.before.p95)} → ${formatDuration(figures.after.p95)}.`;
  if (sure.verdict === 'only sums' || sure.verdict === 'too few')
    return [verdictSentence({ sure, figures }), counted];
  const { about, changes } = sure;
  const pairs = `Of two requests picked at random, the one of B is the faster in ${formatShare(sure.faster!)} of cases.`;
  const median = `Median: ${confidence(changes.median!)}.`;
  const slow = changes.p95
    ? `${p95.slice(0, -1)}: ${confidence(changes.p95)}.`
    : `${p95} Too few requests to say how sure that is.`;
  if (about === null) return [median, whyUnclear(sure), visibleWords(sure), slow, counted].filter(Boolean);
  return about === 'median'
    ? [median, pairs, slow, counted]
    : [
        slow,
        `The median shows no clear change: ${confidence(changes.median!)}.`,
        whyUnclear(sure),
        pairs,
        counted
      ].filter(Boolean);
}

/** What a median that looks changed lacks for being called so: few requests must show it more clearly than 95 %. */
function whyUnclear({ changes, effective, p }: HowSure): string {
  const { low, high } = changes.median!.differenceWithin;
  if (low <= 0 && high >= 0) return '';
  const { level, p: most } = askedOfMedian(Math.min(effective.before, effective.after));
  return `That is not called clear yet: ${formatShare(level)} confidence is asked for, and that chance alone orders them like this in less than ${formatShare(most)} of cases (here ${formatShare(p!)}).`;
}

/** `5.6 times as fast, with 95 % confidence 5.2 to 6 times`, or the shares by which it changed. */
function confidence({ ratio, ratioWithin, difference, differenceWithin }: Change): string {
  if (ratio === null || ratioWithin === null || ratioWithin.low <= 0)
    return `${signedDuration(difference)}, with 95 % confidence ${signedDuration(differenceWithin.low)} to ${signedDuration(differenceWithin.high)}`;
  const times = (value: number): string => value.toFixed(value < 10 ? 1 : 0);
  if (ratio <= 1 / TIMES && ratioWithin.high <= 1)
    return `${times(1 / ratio)} times as fast, with 95 % confidence ${times(1 / ratioWithin.high)} to ${times(1 / ratioWithin.low)} times`;
  if (ratio >= TIMES && ratioWithin.low >= 1)
    return `${times(ratio)} times as slow, with 95 % confidence ${times(ratioWithin.low)} to ${times(ratioWithin.high)} times`;
  return `${signedShare(ratio - 1)}, with 95 % confidence ${signedShare(ratioWithin.low - 1)} to ${signedShare(ratioWithin.high - 1)}`;
}
/** From twice on, "times" says more than a share. */
const TIMES = 2;

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
    case 'sums':
      return `Of side ${SIDE[note.side]} only sums are kept: averages and parts are exact, median and p95 right to 1 %, and how sure they are is not told.`;
    case 'newest':
      return `Of side ${SIDE[note.side]} the newest ${formatCount(note.requests)} of ${formatCount(note.of)} requests were read.`;
    case 'few':
      return `Side ${SIDE[note.side]} has only ${plural(note.requests, 'request')}.`;
    case 'overlap':
      return 'The sides overlap in time: what changed on the machine meanwhile changed both.';
    case 'same':
      return 'Both sides are the same requests.';
  }
}
export const SIDE: Sides<string> = { before: 'A', after: 'B' };
