import * as v from 'valibot';
import { binAt } from './roll-up-steps';

/** How far back a window reaches that moves with the present. */
export const LASTS = {
  '15m': '15 minutes',
  '30m': '30 minutes',
  '1h': 'hour',
  '6h': '6 hours',
  '24h': '24 hours',
  '7d': '7 days',
  '30d': '30 days',
  '90d': '3 months'
} as const;
export type Last = keyof typeof LASTS;
const LAST_MINUTES: Record<Last, number> = {
  '15m': 15,
  '30m': 30,
  '1h': 60,
  '6h': 360,
  '24h': 1440,
  '7d': 10_080,
  '30d': 43_200,
  '90d': 129_600
};
const LAST_NAMES = Object.keys(LASTS) as [Last, ...Last[]];

const text = v.optional(v.pipe(v.string(), v.maxLength(500)), '');
const decimal = v.optional(v.pipe(v.string(), v.regex(/^\d{1,12}(?:\.\d{1,6})?$/), v.transform(Number)));
const number = v.optional(v.pipe(v.string(), v.regex(/^\d{1,16}$/), v.transform(Number)));

const Parameters = v.object({
  service: text,
  endpoint: text,
  host: text,
  release: text,
  last: v.optional(v.fallback(v.picklist(LAST_NAMES), '30m'), '30m'),
  from: v.fallback(number, undefined),
  to: v.fallback(number, undefined),
  slower: v.fallback(decimal, undefined),
  faster: v.fallback(decimal, undefined),
  status: v.fallback(v.optional(v.picklist(['failed', 'ok'])), undefined),
  user: text,
  group: v.fallback(number, undefined),
  finding: text,
  failure: v.fallback(number, undefined),
  run: v.fallback(number, undefined)
});
/** Every name of the scope in the URL. */
export const SCOPE_PARAMETERS = [...Object.keys(Parameters.entries), 'attr'];
/** Most attribute conditions of one scope. */
const MAX_ATTRIBUTES = 8;

/** What is being looked at: the scope line, as it stands in the URL. Empty texts mean every. */
export interface Scope {
  service: string;
  endpoint: string;
  /** A `!` before its name means every other one. */
  host: string;
  release: string;
  last: Last;
  /** Selected on the time rail, epoch milliseconds; undefined for the whole rail. */
  from: number | undefined;
  to: number | undefined;
  /** Only requests slower than so many milliseconds. */
  slower: number | undefined;
  /** Only requests at most so many milliseconds long. */
  faster: number | undefined;
  status: 'failed' | 'ok' | undefined;
  user: string;
  /** Conditions `name=value` on attributes of the entry span or its process. */
  attributes: string[];
  /** Only requests that make calls of this group, by its number. */
  group: number | undefined;
  /** Only requests in which this rule found something. */
  finding: string;
  /** Only requests in which a failure of this group happened, by its number. */
  failure: number | undefined;
  /** Only what this load run caused, by its number. */
  run: number | undefined;
}

/** Reads parameters one by one: a page that depends on them is loaded anew when one of these changes, and no other. */
export function scopeFrom(parameters: URLSearchParams): Scope {
  const named = Object.keys(Parameters.entries).map((name) => [name, parameters.get(name) ?? undefined]);
  const parsed = v.safeParse(Parameters, Object.fromEntries(named));
  const given = parsed.success ? parsed.output : v.parse(Parameters, {});
  const attributes = parameters
    .getAll('attr')
    .filter((pair) => /^[^=]+=/.test(pair) && pair.length <= 500)
    .slice(0, MAX_ATTRIBUTES);
  const { from, to, slower, faster, status, group, failure, run } = given;
  const scope: Scope = { ...given, attributes, from, to, slower, faster, status, group, failure, run };
  if (from === undefined || to === undefined || from >= to)
    return { ...scope, from: undefined, to: undefined };
  return scope;
}

/** Parameters of the scope, only those that are not the default; `change` overrides. */
export function scopeQuery(scope: Scope, change: Partial<Scope> = {}): string {
  const next = { ...scope, ...change };
  const query = new URLSearchParams();
  for (const name of ['service', 'endpoint', 'host', 'release', 'user', 'status', 'finding'] as const)
    if (next[name]) query.set(name, next[name]);
  if (next.last !== '30m') query.set('last', next.last);
  if (next.from !== undefined && next.to !== undefined) {
    query.set('from', String(Math.round(next.from)));
    query.set('to', String(Math.round(next.to)));
  }
  for (const name of ['slower', 'faster', 'group', 'failure', 'run'] as const)
    if (next[name] !== undefined) query.set(name, String(next[name]));
  for (const pair of next.attributes) query.append('attr', pair);
  return query.toString();
}

/** The host of a scope. A sign before its name means every other one. */
export const namedHost = ({ host }: Pick<Scope, 'host'>): { name: string; but: boolean } =>
  host.startsWith('!') ? { name: host.slice(1), but: true } : { name: host, but: false };

/** The parts of a scope that only pick requests one by one: roll-ups know nothing of them. */
export const NO_PICKS: Pick<
  Scope,
  'slower' | 'faster' | 'status' | 'user' | 'attributes' | 'group' | 'finding' | 'failure'
> = {
  slower: undefined,
  faster: undefined,
  status: undefined,
  user: '',
  attributes: [],
  group: undefined,
  finding: '',
  failure: undefined
};

/** A span of time in epoch microseconds. */
export interface TimeWindow {
  fromUs: number;
  toUs: number;
}

/** What the time rail shows: the last so-and-so long, or around a selection that lies elsewhere. */
export function railWindow(scope: Scope, nowMs: number): TimeWindow {
  const length = LAST_MINUTES[scope.last] * 60_000;
  const last = { fromUs: (nowMs - length) * 1000, toUs: nowMs * 1000 };
  if (scope.from === undefined || scope.to === undefined) return last;
  const inside = scope.from * 1000 >= last.fromUs && scope.to * 1000 <= last.toUs + 60e6;
  if (inside) return last;
  const margin = Math.max(length - (scope.to - scope.from), scope.to - scope.from) / 2;
  return { fromUs: (scope.from - margin) * 1000, toUs: (scope.to + margin) * 1000 };
}

/**
 * What everything is filtered by: the selection, or the whole rail, as whole bins of the sums that are kept of that time: minutes, of what is
 * older than about a week hours. So every view counts the same, and says of which time.
 */
export function scopeWindow(scope: Scope, nowMs: number): TimeWindow {
  const window =
    scope.from !== undefined && scope.to !== undefined
      ? { fromUs: scope.from * 1000, toUs: scope.to * 1000 }
      : railWindow(scope, nowMs);
  return wholeBins(window, nowMs);
}

/** A window as whole bins of the sums that are kept of its ends. The bin that still runs ends now. */
export function wholeBins({ fromUs, toUs }: TimeWindow, nowMs: number): TimeWindow {
  const binUs = (us: number): number => binAt(us / 1000, nowMs) * 60e6;
  const end = Math.ceil(toUs / binUs(toUs)) * binUs(toUs);
  return {
    fromUs: Math.floor(fromUs / binUs(fromUs)) * binUs(fromUs),
    toUs: Math.max(toUs, Math.min(end, nowMs * 1000))
  };
}

/** As long a time before a window, as whole bins. */
export const timeBefore = ({ fromUs, toUs }: TimeWindow, nowMs: number): TimeWindow =>
  wholeBins({ fromUs: 2 * fromUs - toUs, toUs: fromUs }, nowMs);
