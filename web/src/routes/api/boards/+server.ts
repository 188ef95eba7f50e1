import { randomBytes } from 'node:crypto';
import { json } from '@sveltejs/kit';
import { Board } from '@tromix/core/watch/board';
import { readJson, refused } from '$lib/server/http/json-body';
import { publish } from '$lib/server/live';
import { boardList } from '$lib/server/watch/boards';
import { change } from '$lib/server/workers';
import type { RequestHandler } from './$types';

const MOST_BOARDS = 200;
const MAX_BYTES = 1_000_000;

export const GET: RequestHandler = async () => json(await boardList());

/** Makes a board: an empty one, or one of a file. */
export const POST: RequestHandler = async ({ request }) => {
  const body = await readJson(request, Board, MAX_BYTES);
  if (!body.ok) return refused(body.message);
  if ((await boardList()).length >= MOST_BOARDS)
    return refused(`There are ${MOST_BOARDS} boards already.`, 409);
  const id = randomBytes(8).toString('hex');
  await change('addBoard', id, body.value.name, body.value.charts);
  publish('boards');
  return json({ id }, { status: 201 });
};
