import { error } from '@sveltejs/kit';
import { scopeFrom, scopeWindow } from '$lib/scope';
import { oneVisit } from '$lib/server/queries/pages/one-visit';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url, params }) => {
  const visit = await oneVisit(params.session);
  if (!visit) error(404, 'Nothing is kept of this visit. Its page loads may have been removed.');
  return { window: scopeWindow(scopeFrom(url.searchParams), Date.now()), visit };
};
