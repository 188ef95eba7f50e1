import { dependenceOf } from '../stats/autocorrelation';
import { momentsOf } from '../stats/moments';
import { meanInterval, shareInterval } from '../stats/share-interval';
import type { EndpointBudget } from './budget';
import type { ComparedSide } from './compared-side';
import type { Comparison } from './comparison';
import { howSure, type Change, type HowSure } from './how-sure';
import { notTold, stateOf, type BudgetWhat, type Judgement, type Measured } from './judgement';

/** What is judged: side B, and what it was held against where that is known. */
export interface Judged {
  after: ComparedSide;
  comparison: Comparison | null;
}

const NS_PER_MS = 1e6;
const TOO_FEW = 'There are too few requests.';

/**
 * Judges one endpoint. A figure with chance in it breaks its limit only where its whole 95 % interval lies beyond, so that noise breaks no build.
 * @param judged null where there is no such endpoint.
 * @param strict the figure itself is judged, without its interval.
 */
export function judgeEndpoint(budget: EndpointBudget, judged: Judged | null, strict = false): Judgement[] {
  const of = `${budget.service} ${budget.endpoint}`;
  const judgements: Judgement[] = [];
  const add = (what: BudgetWhat, limit: number, measured: Measured): void => {
    judgements.push({ of, what, limit, ...measured, state: stateOf(limit, measured, strict) });
  };
  if (budget.medianMs !== undefined) add('medianMs', budget.medianMs, durationOf(judged, 'median'));
  if (budget.p95Ms !== undefined) add('p95Ms', budget.p95Ms, durationOf(judged, 'p95'));
  if (budget.slowerBy !== undefined) add('slowerBy', budget.slowerBy, slowerBy(judged));
  if (budget.callsPerRequest !== undefined) add('callsPerRequest', budget.callsPerRequest, callsOf(judged));
  if (budget.failedShare !== undefined) add('failedShare', budget.failedShare, failedOf(judged));
  for (const rule of budget.forbidden ?? []) judgements.push({ of, ...forbidden(rule, judged) });
  return judgements;
}

const NO_REQUESTS = notTold('There are no requests of it.');

const sidesOf = (change: Change, scale: number): Measured => ({
  measured: change.sides.after * scale,
  within: { low: change.sidesWithin.after.low * scale, high: change.sidesWithin.after.high * scale },
  reason: ''
});

/** How sure its figures are: also where there is nothing to hold it against. */
const sureOf = ({ after: { durationsNs }, comparison }: Judged): HowSure =>
  comparison?.sure ?? howSure({ before: durationsNs, after: durationsNs });

function durationOf(judged: Judged | null, statistic: 'median' | 'p95'): Measured {
  if (!judged) return NO_REQUESTS;
  const change = sureOf(judged).changes[statistic];
  return change ? sidesOf(change, 1 / NS_PER_MS) : notTold(TOO_FEW);
}

function slowerBy(judged: Judged | null): Measured {
  if (!judged) return NO_REQUESTS;
  const change = judged.comparison?.sure.changes.median ?? null;
  if (!change || change.ratio === null)
    return notTold(judged.comparison ? TOO_FEW : 'There is no side A to hold it against.');
  const { low, high } = change.ratioWithin!;
  return { measured: change.ratio - 1, within: { low: low - 1, high: high - 1 }, reason: '' };
}

function callsOf(judged: Judged | null): Measured {
  if (!judged || judged.after.calls.length === 0) return NO_REQUESTS;
  const { mean, deviation } = momentsOf(judged.after.calls);
  const within = meanInterval(mean, deviation, dependenceOf(judged.after.calls).effective);
  return { measured: mean, within, reason: '' };
}

function failedOf(judged: Judged | null): Measured {
  const all = judged?.after.durationsNs.length ?? 0;
  if (!judged || all === 0) return NO_REQUESTS;
  return { measured: judged.after.failed / all, within: shareInterval(judged.after.failed, all), reason: '' };
}

/** A finding is no matter of chance: one request that has it is enough. */
function forbidden(rule: string, judged: Judged | null): Omit<Judgement, 'of'> {
  const base = { what: 'forbidden' as const, limit: rule, within: null };
  if (!judged || judged.after.durationsNs.length === 0)
    return { ...base, measured: null, state: 'not told', reason: NO_REQUESTS.reason };
  const requests = judged.after.findings
    .filter((found) => found.rule === rule)
    .reduce((most, found) => Math.max(most, found.requests), 0);
  return { ...base, measured: requests, state: requests > 0 ? 'broken' : 'kept', reason: '' };
}
