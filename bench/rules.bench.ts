/**
 * Precision and recall of the rules about requests, over the labelled corpus (core/src/testing/request-shapes): of what a rule says, how much
 * is meant; of what is meant, how much it says. No times: the same in every run.
 */
import { findInRequest } from '../core/src/findings/request-findings';
import type { Rule } from '../core/src/findings/request-rules';
import { REQUEST_SHAPES } from '../core/src/testing/request-shapes/all';
import { traceOf } from '../core/src/testing/spans';
import { recorded, RECORDED } from '../recordings/recorded-traces';

const LEAST_PRECISION = 0.97;
const LEAST_RECALL = 0.95;

interface Tally {
  right: number;
  wrong: number;
  missed: number;
}
const tallies = new Map<Rule, Tally>();
const tally = (rule: Rule): Tally => {
  let known = tallies.get(rule);
  if (!known) tallies.set(rule, (known = { right: 0, wrong: 0, missed: 0 }));
  return known;
};

for (const { spans, must, may = [] } of REQUEST_SHAPES) {
  const trace = traceOf(spans);
  const found: ReadonlySet<Rule> = new Set<Rule>(
    findInRequest(trace, trace.requests[0]).map(({ rule }) => rule)
  );
  for (const rule of found) {
    if (must.includes(rule)) tally(rule).right++;
    else if (!may.includes(rule)) tally(rule).wrong++;
  }
  for (const rule of must) if (!found.has(rule)) tally(rule).missed++;
}

const requests = RECORDED.flatMap(recorded).filter(({ request }) => request.kind === 'request').length;
console.log(
  `${REQUEST_SHAPES.length} labelled requests; ${requests} recorded ones are judged by recordings/traces.test.ts`
);
console.log('rule                    meant  precision  recall');
let missed = false;
for (const [rule, { right, wrong, missed: silent }] of [...tallies].sort()) {
  const [precision, recall] = [right / (right + wrong), right / (right + silent)];
  console.log(
    `${rule.padEnd(22)} ${String(right + silent).padStart(6)}  ${precision.toFixed(2).padStart(9)}  ${recall.toFixed(2).padStart(6)}`
  );
  missed ||= !(precision >= LEAST_PRECISION && recall >= LEAST_RECALL);
}
console.log(
  `must reach: ${LEAST_PRECISION} and ${LEAST_RECALL} for every rule: ${missed ? 'missed' : 'reached'}`
);
if (missed) process.exitCode = 1;
