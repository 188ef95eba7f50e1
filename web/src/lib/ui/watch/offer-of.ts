import { identityKey, type FailureIdentity } from '@tromix/core/failures/identity';
import { DEFAULT_APDEX_T_MS } from '@tromix/core/stats/apdex';
import type { Vital } from '@tromix/core/pages/vitals';
import type { Place, WatchedOf } from '@tromix/core/watch/watched';
import type { Scope } from '$lib/scope';
import type { WatchOffer } from './offers.svelte';

// What views offer to be watched, by what they are about.

type Names = Partial<Pick<Scope, 'service' | 'endpoint' | 'host' | 'release'>>;

/** Where a scope looks. @param narrower names of a row in it */
export const placeOf = (scope: Names, narrower: Names = {}): Place => ({
  service: narrower.service ?? scope.service ?? '',
  endpoint: narrower.endpoint ?? scope.endpoint ?? '',
  host: narrower.host ?? scope.host ?? '',
  release: narrower.release ?? scope.release ?? ''
});

/** Whether a scope picks requests by what no watch knows of: what is shown then is not what would be watched. */
const picksMore = (scope: Partial<Scope>): boolean =>
  (['slower', 'faster', 'status', 'user', 'group', 'finding', 'failure', 'run'] as const).some(
    (pick) => scope[pick] !== undefined && scope[pick] !== ''
  );

/** Requests of a scope; conditions on their attributes count too. null where it picks them by more than that. @param apdexMs T of Apdex, of an endpoint its own */
export const requestsOffer = (
  scope: Partial<Scope>,
  narrower: Names = {},
  figure: WatchedOf<'requests'>['figure'] = 'p95',
  apdexMs: number = DEFAULT_APDEX_T_MS
): WatchOffer | null =>
  picksMore(scope)
    ? null
    : {
        watched: {
          of: 'requests',
          figure,
          place: placeOf(scope, narrower),
          attributes: [...(scope.attributes ?? [])],
          apdexMs
        }
      };

export const callsOffer = (
  { kind, fingerprint }: { kind: string; fingerprint: string },
  scope: Names,
  figure: WatchedOf<'calls'>['figure'] = 'p95'
): WatchOffer => ({
  watched: { of: 'calls', figure, place: placeOf(scope), kind, fingerprint, attributes: [] }
});

export const findingOffer = (
  { rule, subject, service, endpoint }: { rule: string; subject: string; service: string; endpoint: string },
  scope: Names
): WatchOffer => ({
  watched: { of: 'finding', place: placeOf({ ...scope, service, endpoint }), rule, subject }
});

/** New failures and those that came back; or how often one happens. */
export const failuresOffer = (scope: Names, identity: FailureIdentity | null = null): WatchOffer => ({
  watched: {
    of: 'failures',
    figure: identity ? 'rate' : 'new',
    place: placeOf(scope),
    failure: identity ? identityKey(identity) : ''
  }
});

export const crashesOffer = (scope: Names): WatchOffer => ({
  watched: { of: 'crashes', place: { ...placeOf(scope), endpoint: '' } }
});

export const vitalOffer = (
  { site, name }: { site: string; name: string },
  vital: Vital,
  audience: Partial<WatchedOf<'vital'>['audience']> = {}
): WatchOffer => ({
  watched: {
    of: 'vital',
    vital,
    site,
    page: name,
    audience: { device: '', connection: '', country: '', release: '', ...audience }
  }
});

export const measureOffer = (measure: WatchedOf<'measure'>['measure'], host: string): WatchOffer => ({
  watched: { of: 'measure', measure, host }
});

export const counterOffer = (
  counter: Pick<WatchedOf<'counter'>, 'name' | 'unit' | 'isRate' | 'part'>,
  host: string
): WatchOffer => ({
  watched: { of: 'counter', ...counter, fold: 'mean', place: placeOf({ host }), attributes: [] }
});
