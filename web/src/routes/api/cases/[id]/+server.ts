import { error, json } from '@sveltejs/kit';
import * as v from 'valibot';
import { Case } from '@tromix/core/case/case';
import { readJson, refused } from '$lib/server/http/json-body';
import { publish } from '$lib/server/live';
import { caseOf, keptBy } from '$lib/server/queries/cases';
import { change } from '$lib/server/workers';
import type { RequestHandler } from './$types';

const Changed = v.object({
  version: Case.entries.version,
  question: Case.entries.question,
  state: Case.entries.state,
  told: Case.entries.told
});

export const GET: RequestHandler = async ({ params }) => {
  const one = await caseOf(params.id);
  if (!one) error(404, 'This case is not here. It may have been removed.');
  return json(one);
};

/** Changes what is said of the case as a whole. */
export const PATCH: RequestHandler = async ({ params, request }) => {
  const body = await readJson(request, Changed);
  if (!body.ok) return refused(body.message);
  const { version, ...next } = body.value;
  const one = await caseOf(params.id);
  if (!one) return refused('This case is not here. It may have been removed.', 404);
  if (one.version !== version) return json({ message: CHANGED, now: one }, { status: 409 });
  await change('changeCase', one.id, version, next, keptBy({ ...one, ...next }));
  const now = (await caseOf(one.id))!;
  publish('cases');
  const isMine = now.version === version + 1 && now.question === next.question && now.state === next.state;
  return isMine ? json({ version: now.version }) : json({ message: CHANGED, now }, { status: 409 });
};
const CHANGED = 'Somebody else changed this case meanwhile. Nothing of yours was written over theirs.';

export const DELETE: RequestHandler = async ({ params }) => {
  await change('removeCase', params.id);
  publish('cases');
  return new Response(null, { status: 204 });
};
