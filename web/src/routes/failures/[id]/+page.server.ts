import { error, redirect } from '@sveltejs/kit';
import { scopeFrom, scopeWindow } from '$lib/scope';
import { releaseMarks } from '$lib/server/queries/compared';
import { failureOf } from '$lib/server/queries/failure';
import { loadMerges } from '$lib/server/queries/failure-merges';
import { failuresOf, identitiesOf } from '$lib/server/queries/failures';
import { settings } from '$lib/server/settings';
import type { PageServerLoad } from './$types';

/** Groups that may be merged with it. */
const MOST_OTHERS = 60;

export const load: PageServerLoad = async ({ url, params, depends }) => {
  depends('tromix:data');
  const id = Number(params.id);
  if (!Number.isSafeInteger(id) || id < 1) error(404, 'This is no group of failures.');
  const scope = scopeFrom(url.searchParams);
  const nowMs = Date.now();
  const window = scopeWindow(scope, nowMs);
  const at = Number(url.searchParams.get('nth') ?? 0);
  const merges = await loadMerges();
  if (merges.of(id) !== id) redirect(302, `/failures/${merges.of(id)}${url.search}`);
  const [failure, identities, marks, list] = await Promise.all([
    failureOf(scope, window, nowMs, id, Number.isSafeInteger(at) && at > 0 ? at : 0),
    identitiesOf([id]),
    releaseMarks(scope, window),
    failuresOf(scope, window, nowMs)
  ]);
  const identity = identities.get(id);
  if (!identity) error(404, 'This group of failures is not here.');
  const flags = marks.filter(({ at }) => at * 1000 >= window.fromUs);
  const others = list.groups
    .filter((group) => group.id !== id)
    .slice(0, MOST_OTHERS)
    .map(({ id: other, type, message, rootType, function: name, file, endpoint }) => ({
      id: other,
      identity: { type, message, rootType, function: name, file, endpoint }
    }));
  const { sourceFolders, sourceLink } = settings();
  return {
    window,
    flags,
    id,
    identity,
    failure,
    others,
    hasSources: sourceFolders.length > 0,
    sourceLink
  };
};
