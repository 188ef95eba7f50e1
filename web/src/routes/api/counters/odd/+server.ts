import { error, json } from '@sveltejs/kit';
import { scopeFrom, scopeWindow } from '$lib/scope';
import { oddHost } from '$lib/server/queries/hosts/odd-host';
import type { RequestHandler } from './$types';

/** In what the counters of one host stand clear of the others'. */
export const GET: RequestHandler = async ({ url }) => {
  const host = url.searchParams.get('one') ?? '';
  if (host === '' || host.length > 300) error(400, 'Expected a host as “one”.');
  const scope = scopeFrom(url.searchParams);
  return json(await oddHost(scope, scopeWindow(scope, Date.now()), host));
};
