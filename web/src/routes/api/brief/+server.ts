import * as v from 'valibot';
import { briefOfPin } from '@tromix/core/case/brief';
import { Pin } from '@tromix/core/case/case';
import { briefAnswer, briefChoice } from '$lib/server/brief-answer';
import { readJson, refused } from '$lib/server/http/json-body';
import type { RequestHandler } from './$types';

const MAX_BYTES = 1_000_000;
const Asked = v.object({ title: v.pipe(v.string(), v.maxLength(1000)), pin: Pin });

/** The brief of one thing that is looked at, without a case. */
export const POST: RequestHandler = async ({ request, url }) => {
  const body = await readJson(request, Asked, MAX_BYTES);
  if (!body.ok) return refused(body.message);
  const { length, as } = briefChoice(url.searchParams);
  const { title, pin } = body.value;
  return briefAnswer(briefOfPin(title, pin, { length, origin: url.origin, nowMs: Date.now() }), as);
};
