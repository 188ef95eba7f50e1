import { json } from '@sveltejs/kit';
import { settings } from '$lib/server/settings';
import { wholeSource } from '$lib/server/sources/source-text';
import type { RequestHandler } from './$types';

/** The whole text of a file in one of the allowed source folders. */
export const GET: RequestHandler = async ({ url }) => {
  const answer = await wholeSource(settings().sourceFolders, url.searchParams.get('file') ?? '');
  return answer.ok
    ? json({ text: answer.text, path: answer.path })
    : json({ message: answer.message }, { status: 404 });
};
