import type { ComparedBatches } from '@tromix/core/compare/compared-batches';
import { callsWords, lineName, noteWords, signedDuration, verdictSentence } from '@tromix/core/compare/words';
import { plural } from '@tromix/core/text/format';
import { onlyLine } from './compare-lines';
import { markdownCell } from './budget-formats';

const MOST_PARTS = 8;

/** A comparison as Markdown, for a comment on a change. */
export function* compareMarkdown({ endpoints, only }: ComparedBatches): Generator<string> {
  for (const { service, endpoint, comparison } of endpoints) {
    yield `### ${markdownCell(`${service} ${endpoint}`)}`;
    yield '';
    yield markdownCell(verdictSentence(comparison));
    for (const note of comparison.notes) yield `- ${noteWords(note)}`;
    yield '';
    const { lines, differenceNs } = comparison.ledgers.part;
    yield '| part | calls a request | by how often | by how long each | a request |';
    yield '| --- | ---: | ---: | ---: | ---: |';
    for (const line of lines.slice(0, MOST_PARTS))
      yield `| ${markdownCell(lineName(line))} | ${callsWords(line.perRequest)} | ${signedDuration(line.byHowOftenNs)} | ${signedDuration(line.byHowLongEachNs)} | ${signedDuration(line.differenceNs)} |`;
    const rest = lines.slice(MOST_PARTS).reduce((sum, line) => sum + line.differenceNs, 0);
    if (lines.length > MOST_PARTS)
      yield `| ${plural(lines.length - MOST_PARTS, 'other part')} | | | | ${signedDuration(rest)} |`;
    yield `| **all, of the average** | | | | **${signedDuration(differenceNs)}** |`;
    yield '';
    for (const { rule, state, found } of comparison.findings)
      if (state !== 'still there' && state !== 'not told')
        yield `- ${rule}: **${state}**, in ${found.before} → ${found.after} requests`;
    yield '';
  }
  for (const side of ['before', 'after'] as const)
    for (const one of only[side]) yield `- ${markdownCell(onlyLine(side, one))}`;
}
