import { json } from '@sveltejs/kit';
import * as v from 'valibot';
import { Board, boardFile } from '@tromix/core/watch/board';
import { readJson, refused } from '$lib/server/http/json-body';
import { publish } from '$lib/server/live';
import { boardOf } from '$lib/server/watch/boards';
import { change } from '$lib/server/workers';
import type { RequestHandler } from './$types';

const MAX_BYTES = 1_000_000;
const GONE = 'This board is not here. It may have been removed.';

/** The board as a file; `?as=stored` as it is stored, with its version. */
export const GET: RequestHandler = async ({ params, url }) => {
  const board = await boardOf(params.id);
  if (!board) return refused(GONE, 404);
  if (url.searchParams.get('as') === 'stored') return json(board);
  const name = board.name.replaceAll(/[^\w-]+/g, '-').replaceAll(/^-+|-+$/g, '') || 'board';
  return new Response(JSON.stringify(boardFile(board), null, 2), {
    headers: {
      'content-type': 'application/json',
      'content-disposition': `attachment; filename="${name}.board.json"`
    }
  });
};

const Changed = v.object({ version: v.pipe(v.number(), v.integer()), ...Board.entries });

/** Changes a board: what somebody else changed meanwhile is not overwritten. */
export const PUT: RequestHandler = async ({ params, request }) => {
  const body = await readJson(request, Changed, MAX_BYTES);
  if (!body.ok) return refused(body.message);
  const board = await boardOf(params.id);
  if (!board) return refused(GONE, 404);
  const { version, name, charts } = body.value;
  if (board.version !== version)
    return refused(
      'Somebody changed this board meanwhile. It is shown as it is now; make your change again.',
      409
    );
  await change('changeBoard', params.id, version, name, charts);
  publish('boards');
  return json({ version: version + 1 });
};

export const DELETE: RequestHandler = async ({ params }) => {
  await change('removeBoard', params.id);
  publish('boards');
  return new Response(null, { status: 204 });
};
