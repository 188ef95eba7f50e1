import { LEVELS } from '../logs/log-state';
import { defineParams, flag, oneOf, text, texts, type StateOfSet } from '../frame/params';

export const TABS = ['timeline', 'calls', 'services', 'beside'] as const;

/** What is looked at of a request; it all stands in the URL. */
export const REQUEST_PARAMS = defineParams({
  tab: oneOf(TABS, 'timeline'),
  /** The request it is held beside, as trace/span; '' for a normal one. */
  before: text(),
  /** Row that was chosen; '' for what the costliest finding is about. */
  row: text(),
  combBy: oneOf(['parent', 'fingerprint'], 'parent', 'combs'),
  /** Combs that are unfolded, and spans that are folded, beside those that are from the start. */
  openCombs: texts('comb'),
  closedSpans: texts('folded'),
  /** What is sought in its log. */
  logText: text('text'),
  logLevel: oneOf(LEVELS, 'all', 'level'),
  /** Beside another request, the rows that are alike are listed too. */
  alike: flag()
});
export type RequestState = StateOfSet<typeof REQUEST_PARAMS>;
/** How the rows are folded. */
export type Folds = Pick<RequestState, 'combBy' | 'openCombs' | 'closedSpans'>;

/** More than these would make an address that cannot be handed on. */
const MOST_FOLDS = 40;
const NO_FOLDS: Folds = { combBy: 'parent', openCombs: [], closedSpans: [] };

/** What of the folds stands in the address: nothing where they are too many. */
export const notedFolds = (folds: Folds): Folds =>
  folds.openCombs.length + folds.closedSpans.length > MOST_FOLDS
    ? { ...NO_FOLDS, combBy: folds.combBy }
    : { combBy: folds.combBy, openCombs: folds.openCombs, closedSpans: folds.closedSpans };
