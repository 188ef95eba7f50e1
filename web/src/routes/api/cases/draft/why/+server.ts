import { json } from '@sveltejs/kit';
import * as v from 'valibot';
import { comparedScopesFrom } from '$lib/compared-scopes';
import { draftOfSides } from '$lib/server/cases/draft-of-sides';
import { openNewCase } from '$lib/server/cases/new-case';
import { readJson, refused } from '$lib/server/http/json-body';
import type { RequestHandler } from './$types';

const Asked = v.object({ query: v.pipe(v.string(), v.maxLength(20_000)) });

/** Opens a case about two sides, with its first draft. */
export const POST: RequestHandler = async ({ request }) => {
  const body = await readJson(request, Asked);
  if (!body.ok) return refused(body.message);
  const { before, after } = comparedScopesFrom(new URLSearchParams(body.value.query));
  if (!before) return refused('Side A is missing.');
  const draft = await draftOfSides({ before, after }, Date.now());
  if (!draft) return refused('One side has no requests any more.', 404);
  const one = await openNewCase(draft.question.slice(0, 300), draft.entries);
  return json({ id: one.id, question: one.question }, { status: 201 });
};
