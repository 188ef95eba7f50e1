import { scopeFrom, scopeWindow } from '$lib/scope';
import { failuresOf } from '$lib/server/queries/failures';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url, depends }) => {
  depends('tromix:data');
  const scope = scopeFrom(url.searchParams);
  const nowMs = Date.now();
  const window = scopeWindow(scope, nowMs);
  return { window, failures: await failuresOf(scope, window, nowMs) };
};
