import { json } from '@sveltejs/kit';
import { counterNames } from '$lib/server/queries/hosts/any-counter';
import { hostAndWindow } from '$lib/server/http/host-and-window';
import type { RequestHandler } from './$types';

/** Every metric of a host. */
export const GET: RequestHandler = async ({ url }) => {
  const { host, window } = hostAndWindow(url);
  return json(await counterNames(host, window.fromMs));
};
