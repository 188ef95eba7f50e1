import { error, redirect } from '@sveltejs/kit';
import { comparedQuery } from '$lib/compared-scopes';
import { loadRun } from '$lib/server/queries/load-runs';
import { endpointsOfRun, presetsOfRun, scopeOfRun } from '$lib/server/queries/sides/presets';
import { scopeFrom, scopeQuery } from '$lib/scope';
import type { PageServerLoad } from './$types';

/** A load run against the one before it that took the same steps; without one, what it may be held against. */
export const load: PageServerLoad = async ({ url }) => {
  const run = await loadRun(Number(url.searchParams.get('run')));
  if (!run) error(404, 'This load run is not here. It may have been removed.');
  const scope = scopeFrom(new URLSearchParams());
  const [preset] = await presetsOfRun(scope, run);
  const [place] = await endpointsOfRun(run.id);
  redirect(
    307,
    preset
      ? `/compare?${comparedQuery(preset.sides)}`
      : `/compare?${scopeQuery(scopeOfRun({ ...scope, ...place }, run))}`
  );
};
