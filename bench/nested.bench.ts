/**
 * Accounting for a chain of nested requests against as many requests side by side, in turns in one run: tree, ledgers, parts and findings, as the
 * writer does it for each trace. What must hold: at most three times as long. So does a chain in which each outlasts the one around it.
 */
import { requestParts } from '../core/src/calls/parts';
import { findInRequest } from '../core/src/findings/request-findings';
import { accountTrace } from '../core/src/trace/requests';
import { SpanKind, type Span } from '../core/src/trace/span';
import { buildTree } from '../core/src/trace/tree';
import { span } from '../core/src/testing/spans';

const SPANS = 20_000;
const ROUNDS = 7;
const [one] = [span({ id: 'a', from: 0, to: 60_000, kind: SpanKind.SERVER })];
const id = (i: number): string => (i + 1).toString(16).padStart(16, '0');

function trace(
  parentOf: (i: number) => number,
  startUs: (i: number) => number,
  lengthUs: (i: number) => number
): Span[] {
  return Array.from({ length: SPANS }, (_, i) => ({
    ...one,
    spanId: id(i),
    parentId: i === 0 ? '' : id(parentOf(i)),
    startUs: one.startUs + startUs(i),
    durationNs: lengthUs(i) * 1000
  }));
}
const TRACES = {
  flat: trace(
    () => 0,
    (i) => i,
    (i) => (i === 0 ? 60_000_000 : 1)
  ),
  chain: trace(
    (i) => i - 1,
    (i) => i,
    (i) => 60_000_000 - 2 * i
  ),
  outlasting: trace(
    (i) => i - 1,
    (i) => i,
    () => 60_000_000
  )
};

function account(spans: Span[]): number {
  const begun = performance.now();
  const trace = accountTrace(buildTree(spans));
  for (const request of trace.requests) {
    requestParts(trace, request);
    findInRequest(trace, request);
  }
  return performance.now() - begun;
}

const times: Record<keyof typeof TRACES, number[]> = { flat: [], chain: [], outlasting: [] };
for (let round = -1; round < ROUNDS; round++)
  for (const [name, spans] of Object.entries(TRACES)) {
    const ms = account(spans);
    if (round >= 0) times[name as keyof typeof TRACES].push(ms);
  }
const median = (list: number[]): number => [...list].sort((a, b) => a - b)[Math.floor(list.length / 2)];
for (const name of ['chain', 'outlasting'] as const) {
  const ratios = times[name].map((ms, i) => ms / times.flat[i]).sort((a, b) => a - b);
  console.log(
    `${name} against flat: ${median(ratios).toFixed(2)} (${ratios[0].toFixed(2)} to ${ratios.at(-1)!.toFixed(2)}); must be at most 3`
  );
}
