import * as v from 'valibot';
import type { Sides } from '@tromix/core/sides';
import { scopeFrom, scopeQuery, type Scope } from './scope';

/** What may be left out of both sides, and how a page says it. */
export const LEAVABLE = {
  failed: 'failed requests',
  cold: 'the first request of each process',
  warming: 'the first 10 seconds of a load run'
} as const;
export type Leavable = keyof typeof LEAVABLE;
export const LEAVABLES = Object.keys(LEAVABLE) as Leavable[];
/** So long a load run is taken to warm up. */
export const WARMING_SECONDS = 10;

/** Two scope sentences, and what is left out of both. */
export interface ComparedScopes {
  /** Null until it is chosen. */
  before: Scope | null;
  after: Scope;
  leave: Leavable[];
}

const Leave = v.fallback(v.array(v.picklist(LEAVABLES)), []);

/** Side B is the scope of the address, as on every page; side A stands in it as one parameter. */
export function comparedScopesFrom(query: URLSearchParams): ComparedScopes {
  const a = query.get('a');
  return {
    before: a === null ? null : scopeFrom(new URLSearchParams(a)),
    after: scopeFrom(query),
    leave: v.parse(Leave, [...new Set(query.getAll('leave'))])
  };
}

/** The parameters of two scopes. */
export function comparedQuery({ before, after }: Sides<Scope>, leave: readonly Leavable[] = []): string {
  const query = new URLSearchParams(scopeQuery(after));
  query.set('a', scopeQuery(before));
  for (const what of leave) query.append('leave', what);
  return query.toString();
}

/** Whether requests of a scope are picked one by one: their sums are not kept. */
export const picksRequests = (scope: Scope): boolean =>
  scope.slower !== undefined ||
  scope.faster !== undefined ||
  scope.status !== undefined ||
  scope.user !== '' ||
  scope.attributes.length > 0 ||
  scope.group !== undefined ||
  scope.finding !== '' ||
  scope.failure !== undefined;
