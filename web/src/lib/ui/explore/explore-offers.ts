import { withValue } from '$lib/attribute-condition';
import type { WatchedOf } from '@tromix/core/watch/watched';
import type { ExploreChoices, ExploreFigure } from '$lib/explore-choices';
import { attributeOf } from '$lib/request-choices';
import type { Scope } from '$lib/scope';
import type { ExploredGroup } from '$lib/server/explore/explore';
import { callsOffer, placeOf, requestsOffer } from '$lib/ui/watch/offer-of';
import type { WatchOffer } from '$lib/ui/watch/offers.svelte';

const FIGURES: Record<ExploreFigure, 'rate' | 'p50' | 'p95' | 'p99' | 'mean' | 'failed'> = {
  count: 'rate',
  p50: 'p50',
  p95: 'p95',
  p99: 'p99',
  mean: 'mean',
  failed: 'failed'
};
const NAMED = ['service', 'endpoint', 'host', 'release'] as const;

/** What of a group can be watched, or put on a board; null where no figure has its condition. */
export function groupOffer(
  { of, figure }: ExploreChoices,
  grouping: string,
  { value, kind }: Pick<ExploredGroup, 'value' | 'kind'>,
  scope: Scope
): WatchOffer | null {
  const attribute = attributeOf(grouping);
  if (value === '(not set)' || value === '') return null;
  if (of === 'requests') {
    const named = NAMED.find((name) => name === grouping);
    if (named) return requestsOffer(scope, { [named]: value }, FIGURES[figure]);
    if (!attribute) return null;
    return requestsOffer(
      { ...scope, attributes: withValue(scope.attributes, attribute, value) },
      {},
      FIGURES[figure]
    );
  }
  if (grouping === 'call') return callsOffer({ kind, fingerprint: value }, scope, FIGURES[figure]);
  if (!attribute) return null;
  const watched: WatchedOf<'calls'> = {
    of: 'calls',
    figure: FIGURES[figure],
    place: placeOf(scope),
    kind: '',
    fingerprint: '',
    attributes: [`${attribute}=${value}`]
  };
  return { watched };
}

/** The chart of all groups that are drawn, as one chart of a board; null where none has a figure. */
export function chartOffer(
  choices: ExploreChoices,
  grouping: string,
  drawn: readonly ExploredGroup[],
  scope: Scope
): WatchOffer | null {
  const [first, ...rest] = drawn.flatMap(
    (group) => groupOffer(choices, grouping, group, scope)?.watched ?? []
  );
  return first ? { watched: first, beside: rest } : null;
}
