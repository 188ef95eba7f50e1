import { json } from '@sveltejs/kit';
import * as v from 'valibot';
import { draftOf } from '$lib/server/cases/draft';
import { openNewCase } from '$lib/server/cases/new-case';
import { readJson, refused } from '$lib/server/http/json-body';
import { scopeFrom } from '$lib/scope';
import type { RequestHandler } from './$types';

const name = v.pipe(v.string(), v.maxLength(20_000));
const Asked = v.object({
  service: name,
  endpoint: name,
  rule: v.pipe(name, v.nonEmpty()),
  subject: name,
  query: name
});

/** Opens a case about a finding, with its first draft. */
export const POST: RequestHandler = async ({ request }) => {
  const body = await readJson(request, Asked);
  if (!body.ok) return refused(body.message);
  const { query, ...of } = body.value;
  const draft = await draftOf(of, scopeFrom(new URLSearchParams(query)), Date.now());
  if (!draft) return refused('This finding is not there any more in this time range.', 404);
  const one = await openNewCase(draft.question.slice(0, 300), draft.entries);
  return json({ id: one.id, question: one.question }, { status: 201 });
};
