import { json } from '@sveltejs/kit';
import { whoSends } from '$lib/server/queries/who-sends';
import type { RequestHandler } from './$types';

/** What is sending, and what was turned away. */
export const GET: RequestHandler = async () => json(await whoSends());
