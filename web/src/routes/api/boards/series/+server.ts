import { json } from '@sveltejs/kit';
import * as v from 'valibot';
import { Watched } from '@tromix/core/watch/watched';
import { readJson, refused } from '$lib/server/http/json-body';
import { figuresOverTime } from '$lib/server/watch/series';
import type { RequestHandler } from './$types';

/** Figures of one question: as many as the charts of a board may have of them that are in sight. */
const MOST_FIGURES = 40;
const MAX_BYTES = 1_000_000;
const moment = v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(8.64e15));
const Asked = v.pipe(
  v.object({
    figures: v.pipe(v.array(Watched), v.minLength(1), v.maxLength(MOST_FIGURES)),
    fromMs: moment,
    toMs: moment
  }),
  v.check(({ fromMs, toMs }) => fromMs < toMs, 'expected a window that ends after it begins')
);
/** Longer ones are not kept. */
const MOST_MS = 1100 * 86_400_000;

/** Figures over time, all on one axis. */
export const POST: RequestHandler = async ({ request }) => {
  const body = await readJson(request, Asked, MAX_BYTES);
  if (!body.ok) return refused(body.message);
  const { figures, fromMs, toMs } = body.value;
  if (toMs - fromMs > MOST_MS) return refused('Expected a window of at most 1,100 days.');
  return json(await figuresOverTime(figures, { fromMs, toMs }, Date.now()));
};
