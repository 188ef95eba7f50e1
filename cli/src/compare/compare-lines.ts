import type { ComparedBatches } from '@tromix/core/compare/compared-batches';
import type { Comparison } from '@tromix/core/compare/comparison';
import {
  callsWords,
  lineName,
  noteWords,
  SIDE,
  signedDuration,
  verdictSentence
} from '@tromix/core/compare/words';
import type { Side } from '@tromix/core/sides';
import { formatCount, plural } from '@tromix/core/text/format';

/** Parts that are listed of each endpoint: what makes the most of the difference. */
const MOST_PARTS = 8;
/** Parts that make less of a difference than this are not listed. */
const LEAST_NS = 1000;

/** A comparison as lines for a terminal. */
export function* compareLines({ endpoints, only, warnings }: ComparedBatches): Generator<string> {
  for (const side of ['before', 'after'] as const)
    for (const { message, count } of warnings[side])
      yield `warning of ${SIDE[side]} (${formatCount(count)}×): ${message}`;
  if (endpoints.length === 0) yield 'No endpoint is on both sides.';
  for (const { service, endpoint, comparison } of endpoints) {
    yield `${service} ${endpoint}`;
    yield* comparisonLines(comparison);
    yield '';
  }
  for (const side of ['before', 'after'] as const) for (const one of only[side]) yield onlyLine(side, one);
}

/** An endpoint that one side has alone. */
export const onlyLine = (
  side: Side,
  { service, endpoint, requests, alike }: ComparedBatches['only'][Side][number]
): string =>
  `only ${SIDE[side]}: ${service} ${endpoint}, ${plural(requests, 'request')}${alike ? ` (side ${side === 'before' ? 'B' : 'A'} seems to name it ${alike}: not compared)` : ''}`;

function* comparisonLines(comparison: Comparison): Generator<string> {
  const { notes, ledgers, findings, failed, requests } = comparison;
  yield `  ${verdictSentence(comparison)}`;
  for (const note of notes) yield `  ${noteWords(note)}`;
  if (failed.before + failed.after > 0)
    yield `  failed: ${failed.before} of ${formatCount(requests.before)} → ${failed.after} of ${formatCount(requests.after)}`;
  const { lines, differenceNs } = ledgers.part;
  const told = lines.filter((line) => Math.abs(line.differenceNs) >= LEAST_NS);
  if (told.length > 0) {
    yield `  ${row('a request', 'by how often', 'by how long', 'calls')}  part`;
    for (const line of told.slice(0, MOST_PARTS))
      yield `  ${row(signedDuration(line.differenceNs), signedDuration(line.byHowOftenNs), signedDuration(line.byHowLongEachNs), callsWords(line.perRequest))}  ${lineName(line)}`;
    const rest = told.slice(MOST_PARTS).reduce((sum, line) => sum + line.differenceNs, 0);
    if (told.length > MOST_PARTS)
      yield `  ${row(signedDuration(rest), '', '', '')}  ${plural(told.length - MOST_PARTS, 'other part')}`;
    yield `  ${row(signedDuration(differenceNs), '', '', '')}  all, of the average`;
  }
  for (const { rule, state, found, subject } of findings)
    if (state !== 'still there' && state !== 'not told')
      yield `  ${rule}: ${state}, in ${found.before} → ${found.after} requests (${subject})`;
}

const row = (...cells: [string, string, string, string]): string =>
  cells.map((cell, i) => cell.padStart(i === 3 ? 18 : 13)).join('');
