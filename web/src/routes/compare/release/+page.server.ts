import { redirect } from '@sveltejs/kit';
import { comparedQuery } from '$lib/compared-scopes';
import { presetOfRelease } from '$lib/server/queries/sides/presets';
import { scopeFrom, scopeQuery, scopeWindow } from '$lib/scope';
import type { PageServerLoad } from './$types';

/** A release against the one before it; without one, what it may be held against. */
export const load: PageServerLoad = async ({ url }) => {
  const { release, ...scope } = scopeFrom(url.searchParams);
  const nowMs = Date.now();
  const all = { ...scope, release: '' };
  const preset = await presetOfRelease(all, release, scopeWindow(all, nowMs), nowMs);
  redirect(307, `/compare?${preset ? comparedQuery(preset.sides) : scopeQuery(all)}`);
};
