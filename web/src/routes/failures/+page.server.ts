import { scopeFrom, scopeWindow } from '$lib/scope';
import { releaseMarks } from '$lib/server/queries/compared';
import { failuresOf } from '$lib/server/queries/failures';
import { FAILURES_PARAMS } from '$lib/ui/failures/failures-state';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url, depends }) => {
  depends('tromix:data');
  const scope = scopeFrom(url.searchParams);
  const { kind, handled } = FAILURES_PARAMS.read(url.searchParams);
  const nowMs = Date.now();
  const window = scopeWindow(scope, nowMs);
  const [failures, marks] = await Promise.all([
    failuresOf(scope, window, nowMs, {
      ...(kind === 'any' ? {} : { kind }),
      ...(handled === 'any' ? {} : { handled })
    }),
    releaseMarks(scope, window)
  ]);
  return { window, failures, flags: marks.filter(({ at }) => at * 1000 >= window.fromUs) };
};
