import { scopeFrom, scopeWindow } from '$lib/scope';
import { releaseMarks } from '$lib/server/queries/compared';
import { failuresOf } from '$lib/server/queries/failures';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url, depends }) => {
  depends('tromix:data');
  const scope = scopeFrom(url.searchParams);
  const nowMs = Date.now();
  const window = scopeWindow(scope, nowMs);
  const [failures, marks] = await Promise.all([
    failuresOf(scope, window, nowMs),
    releaseMarks(scope, window)
  ]);
  return { window, failures, flags: marks.filter(({ at }) => at * 1000 >= window.fromUs) };
};
