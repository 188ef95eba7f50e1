import * as v from 'valibot';
import { readJson, refused } from '$lib/server/http/json-body';
import { tryAgain } from '$lib/server/guarded';
import type { RequestHandler } from './$types';

const Which = v.object({
  kind: v.picklist(['trace', 'batch', 'file', 'dump', 'recording']),
  id: v.pipe(v.string(), v.maxLength(200))
});

/** Lets something that was set aside be tried again. */
export const DELETE: RequestHandler = async ({ request }) => {
  const body = await readJson(request, Which);
  if (!body.ok) return refused(body.message);
  const { kind, id } = body.value;
  await tryAgain(kind, id);
  return new Response(null, { status: 204 });
};
