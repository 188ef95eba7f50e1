import { randomBytes } from 'node:crypto';
import { json } from '@sveltejs/kit';
import * as v from 'valibot';
import { Case, Entry } from '@tromix/core/case/case';
import { readJson, refused } from '$lib/server/http/json-body';
import { publish } from '$lib/server/live';
import { casesOf, keptBy } from '$lib/server/queries/cases';
import { change } from '$lib/server/workers';
import type { RequestHandler } from './$types';

const MAX_BYTES = 8_000_000;
const Opened = v.object({
  question: Case.entries.question,
  /** What it begins with: a draft, or what was just pinned. */
  entries: v.optional(v.pipe(v.array(v.omit(Entry, ['id', 'atUs', 'version'])), v.maxLength(100)), () => [])
});

/** All cases. */
export const GET: RequestHandler = async () => json(await casesOf());

/** Opens a case. */
export const POST: RequestHandler = async ({ request }) => {
  const body = await readJson(request, Opened, MAX_BYTES);
  if (!body.ok) return refused(body.message);
  const atUs = Date.now() * 1000;
  const id = (): string => randomBytes(8).toString('hex');
  const one: Case = {
    id: id(),
    question: body.value.question,
    state: 'open',
    told: '',
    createdAtUs: atUs,
    version: 1,
    entries: body.value.entries.map((entry, i) => ({ ...entry, id: id(), atUs: atUs + i, version: 1 }))
  };
  await change('openCase', one, keptBy(one));
  publish('cases');
  return json({ id: one.id }, { status: 201 });
};
