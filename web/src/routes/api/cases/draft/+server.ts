import { randomBytes } from 'node:crypto';
import { json } from '@sveltejs/kit';
import * as v from 'valibot';
import type { Case } from '@tromix/core/case/case';
import { draftOf } from '$lib/server/cases/draft';
import { readJson, refused } from '$lib/server/http/json-body';
import { publish } from '$lib/server/live';
import { keptBy } from '$lib/server/queries/cases';
import { change } from '$lib/server/workers';
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
  const nowMs = Date.now();
  const draft = await draftOf(of, scopeFrom(new URLSearchParams(query)), nowMs);
  if (!draft) return refused('This finding is not there any more in this time range.', 404);
  const id = (): string => randomBytes(8).toString('hex');
  const one: Case = {
    id: id(),
    question: draft.question.slice(0, 300),
    state: 'open',
    told: '',
    createdAtUs: nowMs * 1000,
    version: 1,
    entries: draft.entries.map((entry, i) => ({ ...entry, id: id(), atUs: nowMs * 1000 + i, version: 1 }))
  };
  await change('openCase', one, keptBy(one));
  publish('cases');
  return json({ id: one.id, question: one.question }, { status: 201 });
};
