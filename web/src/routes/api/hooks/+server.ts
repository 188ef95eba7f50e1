import { randomBytes } from 'node:crypto';
import { json } from '@sveltejs/kit';
import * as v from 'valibot';
import { SEVERITIES } from '@tromix/core/watch/watch';
import { readJson, refused } from '$lib/server/http/json-body';
import { publish } from '$lib/server/live';
import { settings } from '$lib/server/settings';
import { refusedHook } from '$lib/server/watch/hook-send';
import { hookList } from '$lib/server/watch/queries';
import { change } from '$lib/server/workers';
import type { RequestHandler } from './$types';

const MOST_HOOKS = 20;
const SECRET_BYTES = 32;
const Hook = v.object({
  name: v.pipe(v.string(), v.trim(), v.minLength(1, 'expected a name'), v.maxLength(100)),
  url: v.pipe(v.string(), v.trim(), v.maxLength(2000)),
  least: v.optional(v.picklist(SEVERITIES), 'notice'),
  /** A key that the receiver has already: base64, or with `whsec_` before it. */
  secret: v.optional(
    v.pipe(
      v.string(),
      v.transform((text) => text.replace(/^whsec_/, '')),
      v.regex(
        /^(?:[A-Za-z0-9+/]{4}){6,}(?:[A-Za-z0-9+/]{2}==|[A-Za-z0-9+/]{3}=)?$/,
        'expected at least 24 characters of base64'
      )
    )
  )
});

export const GET: RequestHandler = async () => json(await hookList());

/** Adds an address that notices are sent to. The key they are signed with is answered once. */
export const POST: RequestHandler = async ({ request }) => {
  const body = await readJson(request, Hook);
  if (!body.ok) return refused(body.message);
  const { name, url, least, secret = randomBytes(SECRET_BYTES).toString('base64') } = body.value;
  const why = refusedHook(url, settings().hookTargets);
  if (why) return refused(why, 403);
  if ((await hookList()).length >= MOST_HOOKS)
    return refused(`There are ${MOST_HOOKS} webhooks already.`, 409);
  const id = randomBytes(8).toString('hex');
  await change('putHook', { id, name, url, least, secret });
  publish('watches');
  return json({ id, secret: `whsec_${secret}` }, { status: 201 });
};
