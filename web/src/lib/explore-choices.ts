import { GROUPINGS } from './request-choices';
import { defineParams, oneOf, text, type StateOfSet } from './ui/frame/params';

/** What is grouped. */
export const EXPLORED = ['requests', 'calls'] as const;
/** The figure that is drawn over time. */
export const EXPLORE_FIGURES = ['count', 'p50', 'p95', 'p99', 'mean', 'failed'] as const;
export type ExploreFigure = (typeof EXPLORE_FIGURES)[number];
/** What calls are grouped by, beside any attribute of their own as `attr:name`. */
export const CALL_GROUPINGS = ['call', 'kind', 'origin', 'status'] as const;

/** What is explored, besides the scope; it all stands in the URL. */
export const EXPLORE_PARAMS = defineParams({
  of: oneOf(EXPLORED, 'requests', 'of'),
  by: text('by'),
  figure: oneOf(EXPLORE_FIGURES, 'count', 'figure')
});
export type ExploreChoices = StateOfSet<typeof EXPLORE_PARAMS>;

/** What is grouped by, or the usual where that is not known. */
export function groupingOf({ of, by }: ExploreChoices): string {
  const known: readonly string[] = of === 'requests' ? GROUPINGS : CALL_GROUPINGS;
  if (known.includes(by) || /^attr:./.test(by)) return by;
  return of === 'requests' ? 'endpoint' : 'call';
}
