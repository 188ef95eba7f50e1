import { json } from '@sveltejs/kit';
import { counterLines } from '$lib/server/queries/hosts/any-counter';
import { hostAndWindow } from '$lib/server/http/host-and-window';
import type { RequestHandler } from './$types';

/** The lines of one metric of a host. */
export const GET: RequestHandler = async ({ url }) => {
  const { host, window } = hostAndWindow(url);
  return json(await counterLines(host, (url.searchParams.get('name') ?? '').slice(0, 300), window));
};
