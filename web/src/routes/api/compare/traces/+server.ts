import { error, json } from '@sveltejs/kit';
import { comparedScopesFrom } from '$lib/compared-scopes';
import { sideTraces } from '$lib/server/queries/sides/side-traces';
import type { RequestHandler } from './$types';

/** The newest requests of two sides with the spans of their traces. */
export const GET: RequestHandler = async ({ url }) => {
  const { before, after, leave } = comparedScopesFrom(url.searchParams);
  if (!before) error(400, 'Side A is missing.');
  return json(await sideTraces({ before, after }, leave, Date.now()));
};
