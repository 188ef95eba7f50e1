import { json } from '@sveltejs/kit';
import { hoursWithData } from '$lib/server/queries/data-range';
import type { RequestHandler } from './$types';

/** Hours in which there were requests, the newest first: the browser makes days of them, in its own time zone. */
export const GET: RequestHandler = async () => json(await hoursWithData());
