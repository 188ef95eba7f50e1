import { json } from '@sveltejs/kit';
import { valuesLike } from '$lib/server/queries/attributes';
import type { RequestHandler } from './$types';

/** Values of one attribute that begin with a text, to choose from. */
export const GET: RequestHandler = async ({ url }) => {
  const name = (url.searchParams.get('name') ?? '').slice(0, 300);
  const begin = (url.searchParams.get('begin') ?? '').slice(0, 300);
  return json(name ? await valuesLike(name, begin) : []);
};
