import { comparedScopesFrom } from '$lib/compared-scopes';
import { comparedSides } from '$lib/server/queries/sides/compared-sides';
import { presetsOf } from '$lib/server/queries/sides/presets';
import type { PageServerLoad } from './$types';

/** Two sides held against each other; where there is one only, what it may be held against. */
export const load: PageServerLoad = async ({ url, depends }) => {
  depends('tromix:data');
  const { before, after, leave } = comparedScopesFrom(url.searchParams);
  const nowMs = Date.now();
  if (!before)
    return { sides: null, presets: await presetsOf(after, nowMs), windows: null, scopes: null, leave };
  const sides = await comparedSides({ before, after }, leave, nowMs);
  return { sides, presets: null, windows: sides.windows, scopes: { before, after }, leave };
};
