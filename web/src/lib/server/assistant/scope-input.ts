import * as v from 'valibot';
import { scopeFrom, scopeQuery, scopeWindow, type Scope } from '$lib/scope';
import { AskInstead } from './answer';

const name = (what: string) =>
  v.optional(
    v.pipe(v.string(), v.maxLength(500), v.description(`Exact name of the ${what}. Leave out for all.`))
  );
const time = (what: string) =>
  v.optional(
    v.pipe(
      v.union([v.string(), v.number()]),
      v.description(
        `${what} of the time window, ISO 8601 or epoch milliseconds. Leave out both ends for the last 24 hours.`
      )
    )
  );

/** What is asked about: the scope of every view. */
export const SCOPE = {
  service: name('service'),
  endpoint: name('endpoint, such as "GET /tides"'),
  host: name('host'),
  release: name('release'),
  load_run: v.optional(
    v.pipe(v.number(), v.integer(), v.description('Only what this load run caused, by its number.'))
  ),
  from: time('Start'),
  to: time('End')
};
export type ScopeInput = v.InferOutput<v.ObjectSchema<typeof SCOPE, undefined>>;
export const PAGE = v.optional(
  v.pipe(v.number(), v.integer(), v.minValue(1), v.description('Page of the list, from 1 on.')),
  1
);

/** A scope of a question, with a window that stands still: the answer and its link are of the same time. */
export function scopeOf(input: ScopeInput, nowMs: number): Scope {
  const from = timeOf(input.from, 'from');
  const to = timeOf(input.to, 'to');
  const scope: Scope = {
    ...scopeFrom(new URLSearchParams()),
    last: '24h',
    service: input.service ?? '',
    endpoint: input.endpoint ?? '',
    host: input.host ?? '',
    release: input.release ?? '',
    run: input.load_run
  };
  const moving = scopeWindow(scope, nowMs);
  const fixed = { ...scope, from: from ?? moving.fromUs / 1000, to: to ?? moving.toUs / 1000 };
  if (fixed.from >= fixed.to) throw new AskInstead('"from" has to come before "to".');
  return fixed;
}

function timeOf(given: string | number | undefined, which: string): number | undefined {
  if (given === undefined) return undefined;
  const ms = typeof given === 'number' ? given : Date.parse(given);
  if (!Number.isFinite(ms) || ms < 0)
    throw new AskInstead(
      `"${which}" is no time. Give ISO 8601, such as 2026-03-01T08:00:00Z, or epoch milliseconds.`
    );
  return Math.round(ms);
}

/** What an answer is about, in words. */
export function scopeWords(scope: Scope): string {
  const parts = (['service', 'endpoint', 'host', 'release'] as const)
    .filter((key) => scope[key] !== '')
    .map((key) => `${key} ${scope[key]}`);
  if (scope.run !== undefined) parts.push(`load run ${scope.run}`);
  const iso = (ms: number): string => new Date(ms).toISOString();
  return `${parts.join(', ') || 'everything'}, ${iso(scope.from!)} to ${iso(scope.to!)}`;
}

/** The address of a view of a scope. */
export const linkOf = (
  origin: string,
  path: string,
  scope: Scope | null,
  more: Record<string, string> = {}
): string => {
  const query = new URLSearchParams(scope ? scopeQuery(scope) : '');
  for (const [key, value] of Object.entries(more)) query.set(key, value);
  return `${origin}${path}${query.size > 0 ? `?${query}` : ''}`;
};
