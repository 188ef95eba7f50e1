import { json } from '@sveltejs/kit';
import { partsAndWindow } from '$lib/server/http/taking-part';
import { meanwhileOf } from '$lib/server/queries/hosts/meanwhile';
import type { RequestHandler } from './$types';

/** What hosts and processes told around a time. */
export const GET: RequestHandler = async ({ url }) => {
  const { processes, window } = partsAndWindow(url);
  return json(await meanwhileOf(processes, window));
};
