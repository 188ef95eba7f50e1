import { json } from '@sveltejs/kit';
import * as v from 'valibot';
import { Entry, Pin } from '@tromix/core/case/case';
import { readJson, refused } from '$lib/server/http/json-body';
import { publish } from '$lib/server/live';
import { caseOf, keptBy } from '$lib/server/queries/cases';
import { change } from '$lib/server/workers';
import type { RequestHandler } from './$types';

const Changed = v.object({
  version: Entry.entries.version,
  title: Entry.entries.title,
  text: Entry.entries.text,
  /** Of its pin; left out where it stays as it is. */
  sentence: v.optional(Pin.entries.sentence)
});
const GONE = 'This entry is not here. It may have been removed.';
const CHANGED =
  'Somebody else changed this meanwhile. Both texts are kept: theirs is stored, yours is still here.';

/** Changes the words of an entry. @returns 409 with what stands there where somebody else was faster */
export const PATCH: RequestHandler = async ({ params, request }) => {
  const body = await readJson(request, Changed);
  if (!body.ok) return refused(body.message);
  const { version, ...next } = body.value;
  const entryNow = async (): Promise<Entry | undefined> =>
    (await caseOf(params.id))?.entries.find(({ id }) => id === params.entry);
  const before = await entryNow();
  if (!before) return refused(GONE, 404);
  if (before.version !== version) return json({ message: CHANGED, now: before }, { status: 409 });
  await change('changeEntry', params.id, params.entry, version, next);
  const now = await entryNow();
  if (!now) return refused(GONE, 404);
  publish('cases');
  const isMine = now.version === version + 1 && now.text === next.text && now.title === next.title;
  return isMine ? json({ version: now.version }) : json({ message: CHANGED, now }, { status: 409 });
};

/** Takes an entry out. @returns it, whole: it can be added again */
export const DELETE: RequestHandler = async ({ params }) => {
  const one = await caseOf(params.id);
  if (!one) return refused(GONE, 404);
  const removed = one.entries.find(({ id }) => id === params.entry);
  if (!removed) return refused(GONE, 404);
  const entries = one.entries.filter((entry) => entry !== removed);
  await change('removeEntry', one.id, params.entry, keptBy({ ...one, entries }));
  publish('cases');
  return json(removed);
};
