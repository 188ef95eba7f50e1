import { json } from '@sveltejs/kit';
import { partsAndWindow } from '$lib/server/http/taking-part';
import { countersBeside } from '$lib/server/queries/hosts/beside';
import type { RequestHandler } from './$types';

/** What hosts and processes told over the time of a picture. */
export const GET: RequestHandler = async ({ url }) => {
  const { processes, window } = partsAndWindow(url);
  return json(await countersBeside(processes, window));
};
