import { error } from '@sveltejs/kit';
import { scopeFrom, scopeWindow } from '$lib/scope';
import { releaseMarks } from '$lib/server/queries/compared';
import { failureOf } from '$lib/server/queries/failure';
import { identitiesOf } from '$lib/server/queries/failures';
import { settings } from '$lib/server/settings';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url, params, depends }) => {
  depends('tromix:data');
  const id = Number(params.id);
  if (!Number.isSafeInteger(id) || id < 1) error(404, 'This is no group of failures.');
  const scope = scopeFrom(url.searchParams);
  const nowMs = Date.now();
  const window = scopeWindow(scope, nowMs);
  const at = Number(url.searchParams.get('nth') ?? 0);
  const [failure, identities, marks] = await Promise.all([
    failureOf(scope, window, nowMs, id, Number.isSafeInteger(at) && at > 0 ? at : 0),
    identitiesOf([id]),
    releaseMarks(scope, window)
  ]);
  const identity = identities.get(id);
  if (!identity) error(404, 'This group of failures is not here.');
  const flags = marks.filter(({ at }) => at * 1000 >= window.fromUs);
  return { window, flags, id, identity, failure, hasSources: settings().sourceFolders.length > 0 };
};
