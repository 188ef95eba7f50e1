import { findBy } from './define-rule';
import { failsOnOneHost } from './fails-on-one-host';
import { failsSinceRelease } from './fails-since-release';
import { failureSpreads } from './failure-spreads';
import type { FailureContext, FailureFinding, FoundInFailures } from './failure-finding';

/** Every rule about a group of failures, in the order they are listed. */
export const FAILURE_RULES = [failsSinceRelease, failsOnOneHost, failureSpreads] as const;
export type FailureRule = (typeof FAILURE_RULES)[number]['rule'];

/** Everything the rules find in a group of failures. */
export const findInFailures = (context: FailureContext): FailureFinding<FailureRule>[] =>
  findBy<FailureRule, FailureContext, FoundInFailures>(FAILURE_RULES, context);
