import { error, json } from '@sveltejs/kit';
import { comparedScopesFrom } from '$lib/compared-scopes';
import { aidsFor } from '$lib/server/queries/sides/aids';
import type { RequestHandler } from './$types';

/** What else is known of the moments of side B. */
export const GET: RequestHandler = async ({ url }) => {
  const { before, after, leave } = comparedScopesFrom(url.searchParams);
  if (!before) error(400, 'Side A is missing.');
  return json(await aidsFor({ before, after }, leave, Date.now()));
};
