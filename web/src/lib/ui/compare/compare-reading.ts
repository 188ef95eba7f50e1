import type { ComparedFigures } from '@tromix/core/compare/comparison';
import type { DifferenceLine } from '@tromix/core/compare/difference-ledger';
import { signedDuration } from '@tromix/core/compare/words';
import { formatDuration, formatShare } from '@tromix/core/text/format';
import type { Words } from '@tromix/core/text/words';
import { isCallLine, shortName } from './ledger-lines';

/** A part that makes less of the whole difference is not spoken of. */
const LEAST_SHARE = 0.05;

/** What makes the difference, in plain words, from the rows of the table. */
export function compareReading({ ledgers, failed, requests, failedP }: ComparedFigures): Words[] {
  const { lines, differenceNs, averageNs } = ledgers.part;
  if (Number.isNaN(differenceNs)) return [];
  const sentences: Words[] = [];
  const clear = lines.filter((line) => line.clear);
  if (clear.length === 0) sentences.push(['No part of the request changed clearly.']);
  else sentences.push(...partSentences(clear, differenceNs));
  const against = clear.filter(
    (line) =>
      Math.sign(line.differenceNs) !== Math.sign(differenceNs) &&
      Math.abs(line.differenceNs) > averageNs.before * 0.01
  );
  if (against.length > 0)
    sentences.push([
      `${differenceNs < 0 ? 'Longer' : 'Shorter'} than before: `,
      against
        .slice(0, 3)
        .map((line) => `${shortName(line)} (${signedDuration(line.differenceNs)})`)
        .join(', '),
      '.'
    ]);
  if (failedP <= 0.05)
    sentences.push([
      'The failed share changed: ',
      [`${formatShare(failed.before / requests.before)} → ${formatShare(failed.after / requests.after)}`],
      '.'
    ]);
  return sentences;
}

function partSentences(clear: readonly DifferenceLine[], differenceNs: number): Words[] {
  const [most] = clear;
  const share = most.differenceNs / differenceNs;
  const verb = differenceNs < 0 ? 'gained' : 'lost';
  const sentences: Words[] = [];
  if (share >= LEAST_SHARE)
    sentences.push([
      // More than all of it: something else takes a part back.
      [share > 1 ? 'All' : formatShare(share)],
      ` of what was ${verb} comes from ${shortName(most)}${share > 1 ? ', and more' : ''}. `,
      ...howWords(most)
    ]);
  else
    sentences.push([
      `The greatest clear change is ${shortName(most)}, ${signedDuration(most.differenceNs)} a request.`
    ]);
  return sentences;
}

function howWords(line: DifferenceLine): Words {
  const { before, after } = line.perRequest;
  if (!isCallLine(line))
    return [`It takes ${formatDuration(after.ns)} a request instead of ${formatDuration(before.ns)}.`];
  const times = (calls: number): string => (calls === 1 ? 'once' : `${Number(calls.toPrecision(3))} times`);
  if (before.calls === 0) return ['It is new, ', [`${times(after.calls)} a request`], '.'];
  if (after.calls === 0) return ['It is no longer made; it was ', [`${times(before.calls)} a request`], '.'];
  const each = `${formatDuration(before.ns / before.calls)} → ${formatDuration(after.ns / after.calls)}`;
  if (before.calls === after.calls) return [`Each call takes ${each}.`];
  return [
    'It is made ',
    [`${times(after.calls)} instead of ${times(before.calls)}`],
    `; each takes ${each}, which ${line.byHowLongEachNs > 0 ? 'costs' : 'saves'} ${formatDuration(Math.abs(line.byHowLongEachNs))} of it.`
  ];
}
