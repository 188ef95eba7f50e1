import { json } from '@sveltejs/kit';
import * as v from 'valibot';
import { Entry } from '@tromix/core/case/case';
import { addEntry } from '$lib/server/cases/add-entry';
import { readJson, refused } from '$lib/server/http/json-body';
import type { RequestHandler } from './$types';

const MAX_BYTES = 1_000_000;
const Added = v.omit(Entry, ['id', 'atUs', 'version']);

/** Adds a note or a pin at the end. It is stored when this answers. */
export const POST: RequestHandler = async ({ params, request }) => {
  const body = await readJson(request, Added, MAX_BYTES);
  if (!body.ok) return refused(body.message);
  const id = await addEntry(params.id, body.value);
  if (id === null) return refused('This case is not here. It may have been removed.', 404);
  return json({ id }, { status: 201 });
};
