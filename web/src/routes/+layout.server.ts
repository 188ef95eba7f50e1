import { liveState } from '$lib/server/live';
import { CLOSED_STATES } from '@tromix/core/case/case';
import { casesOf } from '$lib/server/queries/cases';
import { countsOf } from '$lib/server/queries/counts';
import { namesOf } from '$lib/server/queries/names';
import { newestDataMs } from '$lib/server/queries/data-range';
import { railOf } from '$lib/server/queries/rail';
import { savedScopes } from '$lib/server/queries/saved-scopes';
import { settings } from '$lib/server/settings';
import { comparedScopesFrom } from '$lib/compared-scopes';
import { scopeWindow } from '$lib/scope';
import type { LayoutServerLoad } from './$types';

export const load: LayoutServerLoad = ({ url, depends, locals }) => {
  depends('tromix:data');
  depends('tromix:cases');
  // Nothing is loaded for a visitor who is not signed in: the page to sign in on is drawn without a frame.
  return locals.signedIn ? frameOf(url) : (NOTHING as Awaited<ReturnType<typeof frameOf>>);
};

const NOTHING: unknown = {};
/** Open cases that the frame offers. */
const MOST_CASES = 50;

async function frameOf(url: URL) {
  const { before, after: scope } = comparedScopesFrom(url.searchParams);
  const nowMs = Date.now();
  // Before anything is read: what comes in meanwhile is announced to the page afterwards.
  const live = liveState();
  const [names, rail, counts, newestMs, saved, cases] = await Promise.all([
    namesOf(scope),
    railOf(scope, nowMs, before && scopeWindow(before, nowMs)),
    countsOf(scope, nowMs),
    newestDataMs(),
    savedScopes(),
    casesOf()
  ]);
  const { token, ingestToken } = settings();
  return {
    scope,
    names,
    rail,
    counts,
    newestMs,
    saved,
    /** Those that something can be pinned to. */
    cases: cases.filter(({ state }) => !CLOSED_STATES.includes(state)).slice(0, MOST_CASES),
    nowMs,
    live,
    asksToken: token !== '',
    /** Whether programs that send here must name a token. */
    sendsToken: (ingestToken || token) !== ''
  };
}
