import { json } from '@sveltejs/kit';
import { presetsOf } from '$lib/server/queries/sides/presets';
import { scopeFrom } from '$lib/scope';
import type { RequestHandler } from './$types';

/** What a scope may be held against. */
export const GET: RequestHandler = async ({ url }) =>
  json(await presetsOf(scopeFrom(url.searchParams), Date.now()));
