import { json } from '@sveltejs/kit';
import * as v from 'valibot';
import { readJson, refused } from '$lib/server/http/json-body';
import { settings } from '$lib/server/settings';
import { textOfLines } from '$lib/server/sources/source-text';
import type { RequestHandler } from './$types';

const Places = v.pipe(
  v.array(
    v.object({
      file: v.pipe(v.string(), v.maxLength(4096)),
      line: v.pipe(v.number(), v.integer(), v.minValue(1))
    })
  ),
  v.maxLength(200, 'takes 200 lines at most')
);

/** The text of single lines of files in the allowed source folders; those it does not find are left out. */
export const POST: RequestHandler = async ({ request }) => {
  const places = await readJson(request, Places);
  if (!places.ok) return refused(places.message);
  return json(await textOfLines(settings().sourceFolders, places.value));
};
