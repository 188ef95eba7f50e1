import { comparedScopesFrom } from '$lib/compared-scopes';
import { comparedSides } from '$lib/server/queries/sides/compared-sides';
import { presetsOf } from '$lib/server/queries/sides/presets';
import type { PageServerLoad } from './$types';

/** So long after a side’s end requests of it may still be on their way, and are taken in as they come. */
const SETTLING_US = 120e6;

/** Two sides held against each other; where there is one only, what it may be held against. */
export const load: PageServerLoad = async ({ url, depends }) => {
  depends('tromix:data');
  const { before, after, leave } = comparedScopesFrom(url.searchParams);
  const nowMs = Date.now();
  if (!before)
    return { sides: null, presets: await presetsOf(after, nowMs), windows: null, scopes: null, leave };
  const sides = await comparedSides({ before, after }, leave, nowMs);
  const lastUs = Math.max(sides.windows.before.toUs, sides.windows.after.toUs);
  const isSettling = lastUs > nowMs * 1000 - SETTLING_US;
  return { sides, presets: null, windows: sides.windows, scopes: { before, after }, leave, isSettling };
};
