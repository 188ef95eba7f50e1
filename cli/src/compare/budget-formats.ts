import type { BudgetState, Judgement } from '@tromix/core/compare/judgement';
import { judgementName, judgementWords } from '@tromix/core/compare/judgement-words';
import { plural } from '@tromix/core/text/format';
import { xmlText } from '@tromix/core/text/xml-text';

const SIGNS: Record<BudgetState, string> = { kept: 'kept    ', broken: 'BROKEN  ', 'not told': 'not told' };

const count = (judgements: readonly Judgement[], state: BudgetState): number =>
  judgements.filter((one) => one.state === state).length;

/** `12 budgets: 1 broken, 2 not told`. */
const sumLine = (judgements: readonly Judgement[]): string => {
  const [broken, untold] = [count(judgements, 'broken'), count(judgements, 'not told')];
  return `${plural(judgements.length, 'budget')}: ${broken} broken, ${untold} not told, ${judgements.length - broken - untold} kept`;
};

/** Judgements as lines for a terminal. */
export function* budgetLines(judgements: readonly Judgement[]): Generator<string> {
  yield 'budget';
  for (const one of judgements) yield `  ${SIGNS[one.state]}  ${judgementName(one)} ${judgementWords(one)}`;
  yield `  ${sumLine(judgements)}`;
}

/**
 * Judgements as JUnit XML, as build servers read it: one suite, a case a budget; what is broken is a failure, what is not told an error.
 * There is no standard of it; element and attribute names are common practice.
 */
export function junit(judgements: readonly Judgement[]): string {
  const cases = judgements.map((one) => {
    const head = `    <testcase classname="${xmlText(one.of)}" name="${xmlText(judgementName(one))}"`;
    const words = xmlText(judgementWords(one));
    if (one.state === 'kept') return `${head}/>`;
    const element = one.state === 'broken' ? 'failure' : 'error';
    return `${head}>\n      <${element} message="${words}"/>\n    </testcase>`;
  });
  const counts = `tests="${judgements.length}" failures="${count(judgements, 'broken')}" errors="${count(judgements, 'not told')}"`;
  return [
    '<?xml version="1.0" encoding="UTF-8"?>',
    `<testsuites ${counts}>`,
    `  <testsuite name="tromix budget" ${counts}>`,
    ...cases,
    '  </testsuite>',
    '</testsuites>'
  ].join('\n');
}

/** Text that means itself in a cell of a Markdown table (GitHub Flavored Markdown 4.10). */
export const markdownCell = (text: string): string =>
  text.replace(/[\\`*_{}[\]<>#|~!]/g, (sign) => `\\${sign}`).replace(/\s+/g, ' ');

/** Judgements as a Markdown table, broken ones first. */
export function budgetMarkdown(judgements: readonly Judgement[]): string {
  const order: BudgetState[] = ['broken', 'not told', 'kept'];
  const rows = judgements
    .toSorted((a, b) => order.indexOf(a.state) - order.indexOf(b.state))
    .map(
      (one) =>
        `| ${one.state === 'broken' ? '**broken**' : one.state} | ${markdownCell(judgementName(one))} | ${markdownCell(judgementWords(one))} |`
    );
  return [`**${sumLine(judgements)}**`, '', '| | budget | measured |', '| --- | --- | --- |', ...rows].join(
    '\n'
  );
}
