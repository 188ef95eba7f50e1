import { randomBytes } from 'node:crypto';
import { json } from '@sveltejs/kit';
import * as v from 'valibot';
import { Entry } from '@tromix/core/case/case';
import { readJson, refused } from '$lib/server/http/json-body';
import { publish } from '$lib/server/live';
import { caseOf, keptBy } from '$lib/server/queries/cases';
import { change } from '$lib/server/workers';
import type { RequestHandler } from './$types';

const MAX_BYTES = 1_000_000;
const Added = v.omit(Entry, ['id', 'atUs', 'version']);

/** Adds a note or a pin at the end. It is stored when this answers. */
export const POST: RequestHandler = async ({ params, request }) => {
  const body = await readJson(request, Added, MAX_BYTES);
  if (!body.ok) return refused(body.message);
  const one = await caseOf(params.id);
  if (!one) return refused('This case is not here. It may have been removed.', 404);
  const entry: Entry = {
    ...body.value,
    id: randomBytes(8).toString('hex'),
    atUs: Date.now() * 1000,
    version: 1
  };
  await change('addEntry', one.id, entry, keptBy({ ...one, entries: [entry] }));
  publish('cases');
  return json({ id: entry.id }, { status: 201 });
};
