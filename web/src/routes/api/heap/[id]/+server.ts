import { error, json } from '@sveltejs/kit';
import * as v from 'valibot';
import { readJson } from '$lib/server/http/json-body';
import { cancelIndex, heapPlace, indexState } from '$lib/server/heap/indexes';
import { evidenceItem, type EvidenceItem } from '$lib/server/queries/evidence';
import { guarded, NotTried } from '$lib/server/guarded';
import { ThreadEnded } from '$lib/server/thread';
import { callHeapReader } from '$lib/server/workers';
import type { RequestHandler } from './$types';

const object = v.pipe(v.number(), v.integer(), v.minValue(-1));
const from = v.optional(v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(1_000_000)), 0);
const most = v.optional(v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(500)), 100);
const text = v.optional(v.pipe(v.string(), v.maxLength(300)), '');
const id = v.pipe(v.string(), v.regex(/^[0-9a-f]{64}$/));

const Question = v.variant('ask', [
  v.object({ ask: v.literal('overview'), before: v.optional(id) }),
  v.object({ ask: v.literal('classes') }),
  v.object({ ask: v.literal('object'), object, from }),
  v.object({ ask: v.literal('path'), object }),
  v.object({ ask: v.literal('kept'), object, from, most }),
  v.object({ ask: v.literal('referrers'), object, from, most }),
  v.object({
    ask: v.literal('search'),
    name: text,
    value: text,
    least: v.optional(v.number(), 0),
    from,
    most
  }),
  v.object({ ask: v.literal('added'), before: id, name: text, from, most }),
  v.object({ ask: v.literal('roots'), kind: text, from, most }),
  v.object({ ask: v.literal('strings') })
]);
type Question = v.InferOutput<typeof Question>;

const keepsWeak = (url: URL): boolean => url.searchParams.get('weak') === '1';

async function known(dump: string): Promise<EvidenceItem> {
  const item = /^[0-9a-f]{64}$/.test(dump) ? await evidenceItem(dump) : null;
  if (item?.kind !== 'heap') error(404, 'There is no such heap dump. It may have been removed.');
  return item;
}

/** How far the index is; begins it where there is none. */
export const GET: RequestHandler = async ({ params, url }) => {
  await known(params.id);
  return json(await indexState(params.id, keepsWeak(url), url.searchParams.get('again') === '1'));
};

/** Gives an indexing up. */
export const DELETE: RequestHandler = async ({ params, url }) => {
  await known(params.id);
  cancelIndex(params.id, keepsWeak(url));
  return new Response(null, { status: 204 });
};

/** Answers one question about an indexed dump. */
export const POST: RequestHandler = async ({ params, url, request }) => {
  await known(params.id);
  const asked = await readJson(request, Question);
  if (!asked.ok) error(400, asked.message);
  const weak = keepsWeak(url);
  if ((await indexState(params.id, weak)).state !== 'ready') error(409, 'The dump is not indexed yet.');
  try {
    return json(
      await guarded({ kind: 'dump', id: params.id, name: 'this dump' }, () =>
        answer(params.id, weak, asked.value)
      )
    );
  } catch (cause) {
    if (cause instanceof NotTried) error(409, cause.message);
    if (cause instanceof ThreadEnded)
      error(503, 'The thread that reads dumps crashed, possibly out of memory. Ask again.');
    throw cause;
  }
};

async function answer(dump: string, weak: boolean, question: Question): Promise<unknown> {
  const place = heapPlace(dump, weak);
  const before = async (earlier: string) => {
    if ((await known(earlier)).format !== (await known(dump)).format)
      error(400, 'These dumps are of different runtimes: their objects cannot be held against each other.');
    if ((await indexState(earlier, weak)).state !== 'ready')
      error(409, 'The earlier dump is not indexed yet.');
    return heapPlace(earlier, weak);
  };
  switch (question.ask) {
    case 'overview': {
      const earlier = question.before ? await before(question.before) : null;
      return callHeapReader((reader) => reader.overview(place, earlier));
    }
    case 'classes':
      return callHeapReader((reader) => reader.classes(place));
    case 'object':
      return callHeapReader((reader) => reader.object(place, question.object, question.from));
    case 'path':
      return callHeapReader((reader) => reader.path(place, question.object));
    case 'kept':
      return callHeapReader((reader) => reader.kept(place, question.object, question.from, question.most));
    case 'referrers':
      return callHeapReader((reader) =>
        reader.referrers(place, question.object, question.from, question.most)
      );
    case 'search':
      return callHeapReader((reader) =>
        reader.search(place, question.name, question.value, question.least, question.from, question.most)
      );
    case 'added': {
      const earlier = await before(question.before);
      return callHeapReader((reader) =>
        reader.added(place, earlier, question.name, question.from, question.most)
      );
    }
    case 'roots':
      return callHeapReader((reader) => reader.roots(place, question.kind, question.from, question.most));
    case 'strings':
      return callHeapReader((reader) => reader.strings(place));
  }
}
