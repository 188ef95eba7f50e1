import { json } from '@sveltejs/kit';
import * as v from 'valibot';
import { Case, Entry } from '@tromix/core/case/case';
import { openNewCase } from '$lib/server/cases/new-case';
import { readJson, refused } from '$lib/server/http/json-body';
import { casesOf } from '$lib/server/queries/cases';
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
  const one = await openNewCase(body.value.question, body.value.entries);
  return json({ id: one.id }, { status: 201 });
};
