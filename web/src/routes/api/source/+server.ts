import { json } from '@sveltejs/kit';
import { settings } from '$lib/server/settings';
import { sourceText } from '$lib/server/sources/source-text';
import type { RequestHandler } from './$types';

/** The text around a line of a file in one of the allowed source folders. */
export const GET: RequestHandler = async ({ url }) => {
  const file = url.searchParams.get('file') ?? '';
  const line = Number(url.searchParams.get('line'));
  if (!Number.isInteger(line) || line < 1) return json({ message: 'Which line?' }, { status: 400 });
  const answer = await sourceText(settings().sourceFolders, file, line);
  return answer.ok ? json(answer.value) : json({ message: answer.message }, { status: 404 });
};
