import { redirect } from '@sveltejs/kit';
import { comparedQuery } from '$lib/compared-scopes';
import { slowAgainstNormal } from '$lib/server/queries/sides/presets';
import { scopeFrom, scopeQuery, scopeWindow } from '$lib/scope';
import type { PageServerLoad } from './$types';

/** Why slow: the slow requests of a scope against its normal ones, opened at the causes. */
export const load: PageServerLoad = async ({ url }) => {
  const scope = scopeFrom(url.searchParams);
  const nowMs = Date.now();
  const sides = await slowAgainstNormal(scope, scopeWindow(scope, nowMs), nowMs);
  redirect(307, sides ? `/compare?${comparedQuery(sides)}&show=why` : `/compare?${scopeQuery(scope)}`);
};
