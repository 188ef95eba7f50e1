import { json } from '@sveltejs/kit';
import { scopeFrom } from '$lib/scope';
import { openFindingsOf } from '$lib/server/queries/open-findings';
import type { RequestHandler } from './$types';

/** How many open findings a scope has. Asked apart from the page: it costs as much as an overview. */
export const GET: RequestHandler = async ({ url }) =>
  json({ count: await openFindingsOf(scopeFrom(url.searchParams), Date.now()) });
