import { json } from '@sveltejs/kit';
import { findNames } from '$lib/server/queries/palette';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = async ({ url }) =>
  json(await findNames((url.searchParams.get('q') ?? '').slice(0, 200)));
