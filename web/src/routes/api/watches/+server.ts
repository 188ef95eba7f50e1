import { randomBytes } from 'node:crypto';
import { json } from '@sveltejs/kit';
import { Watch } from '@tromix/core/watch/watch';
import { readJson, refused } from '$lib/server/http/json-body';
import { publish } from '$lib/server/live';
import { reader } from '$lib/server/db/reader';
import { watchList } from '$lib/server/watch/queries';
import { readWatches } from '$lib/server/watch/stored';
import { change } from '$lib/server/workers';
import type { RequestHandler } from './$types';

/** Watches that are judged at most: so many are judged within a second. */
const MOST_WATCHES = 1000;

/** All watches, and how they stand. */
export const GET: RequestHandler = async () => json(await watchList(Date.now()));

/** Saves a watch. It is judged from this minute on. */
export const POST: RequestHandler = async ({ request }) => {
  const body = await readJson(request, Watch);
  if (!body.ok) return refused(body.message);
  if ((await readWatches(await reader())).length >= MOST_WATCHES)
    return refused(
      `There are ${MOST_WATCHES} watches already, and no more are judged. Remove one first.`,
      409
    );
  const id = randomBytes(8).toString('hex');
  await change('addWatch', id, body.value);
  publish('watches');
  return json({ id }, { status: 201 });
};
