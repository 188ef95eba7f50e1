import { randomUUID } from 'node:crypto';
import { json } from '@sveltejs/kit';
import * as v from 'valibot';
import { placeName } from '@tromix/core/findings/profile-finding';
import { formatShare, plural } from '@tromix/core/text/format';
import { readJson, refused } from '$lib/server/http/json-body';
import { publish } from '$lib/server/live';
import { addressOf, allowedPlace, isLoopback } from '$lib/server/record/addresses';
import { OBSERVE_OFF } from '$lib/server/record/observe-off';
import { settings } from '$lib/server/settings';
import { callRecorder, change } from '$lib/server/workers';
import type { RequestHandler } from './$types';

/** Functions that may be looked at at once: each stops its process again and again. */
const AT_ONCE = 3;

const Order = v.object({
  address: v.pipe(v.string(), v.maxLength(200)),
  name: v.pipe(v.string(), v.maxLength(500)),
  file: v.pipe(v.string(), v.minLength(1, 'names a file'), v.maxLength(1000)),
  line: v.pipe(v.number(), v.integer(), v.minValue(1, 'takes 1 at least'), v.maxValue(10_000_000)),
  column: v.pipe(v.number(), v.integer(), v.minValue(0, 'takes 0 at least'), v.maxValue(10_000_000)),
  calls: v.pipe(
    v.number(),
    v.integer(),
    v.minValue(1, 'takes 1 call at least'),
    v.maxValue(200, 'takes 200 calls at most')
  ),
  seconds: v.pipe(
    v.number(),
    v.integer(),
    v.minValue(1, 'takes 1 second at least'),
    v.maxValue(120, 'takes 2 minutes at most: it always ends by itself')
  ),
  share: v.pipe(
    v.number(),
    v.minValue(0.001, 'takes 0.1 % at least'),
    v.maxValue(0.5, 'takes half the time at most')
  )
});

/** Looks at one function of a running process from inside; it ends by itself. */
export const POST: RequestHandler = async ({ request, locals }) => {
  if (!settings().mayObserve) return refused(OBSERVE_OFF, 403);
  const order = await readJson(request, Order);
  if (!order.ok) return refused(order.message);
  const { address, ...wanted } = order.value;
  const place = allowedPlace(address, settings().inspectPlaces);
  if ('refused' in place) return refused(place.refused, 403);
  if (!isLoopback(place))
    return refused('Only processes on this very machine are looked at from inside.', 403);
  if ((await callRecorder((recorder) => recorder.observing())) >= AT_ONCE)
    return refused(`${AT_ONCE} functions are looked at already. Wait until one has ended.`, 409);
  const id = randomUUID();
  // Noted before it is done: what fails was tried.
  await change(
    'noteDone',
    locals.session.slice(0, 12),
    `Looked at ${placeName(wanted)} from inside the process at ${addressOf(place)}: ${plural(wanted.calls, 'call')} or ${wanted.seconds} s at most, for ${formatShare(wanted.share)} of the time.`
  );
  publish('recordings');
  const started = await callRecorder((recorder) => recorder.observe(id, place, wanted));
  return started.ok ? json({ id }, { status: 201 }) : refused(started.message, 502);
};
