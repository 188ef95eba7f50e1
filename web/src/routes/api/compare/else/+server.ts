import { error, json } from '@sveltejs/kit';
import { comparedScopesFrom } from '$lib/compared-scopes';
import { everythingElse } from '$lib/server/queries/sides/everything-else';
import type { RequestHandler } from './$types';

/** All endpoints and kinds of calls of two sides. */
export const GET: RequestHandler = async ({ url }) => {
  const { before, after } = comparedScopesFrom(url.searchParams);
  if (!before) error(400, 'Side A is missing.');
  return json(await everythingElse({ before, after }, Date.now()));
};
