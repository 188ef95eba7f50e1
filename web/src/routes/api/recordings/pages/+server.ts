import { json } from '@sveltejs/kit';
import * as v from 'valibot';
import { CPU_SLOWDOWNS, NETWORK_NAMES } from '@tromix/core/pages/slow-down';
import { readJson, refused } from '$lib/server/http/json-body';
import { allowedPlace } from '$lib/server/record/addresses';
import { recordAndKeep } from '$lib/server/record/page/keep-page';
import { settings } from '$lib/server/settings';
import type { RequestHandler } from './$types';

const name = v.optional(v.pipe(v.string(), v.maxLength(100)), '');
const Order = v.object({
  address: v.pipe(v.string(), v.maxLength(200)),
  url: v.pipe(
    v.string(),
    v.maxLength(2000),
    v.check(
      (text) => URL.canParse(text) && /^https?:$/.test(new URL(text).protocol),
      'expected an address like http://127.0.0.1:3000/board'
    )
  ),
  device: v.picklist(['desktop', 'phone']),
  cpu: v.picklist(CPU_SLOWDOWNS),
  network: v.picklist(NETWORK_NAMES),
  service: name,
  release: name
});

/** Records a load of a page in a browser whose debugging port is open. Answers once it is kept. */
export const POST: RequestHandler = async ({ request }) => {
  const order = await readJson(request, Order);
  if (!order.ok) return refused(order.message);
  const { address, ...page } = order.value;
  const place = allowedPlace(address, settings().inspectPlaces);
  if ('refused' in place) return refused(place.refused, 403);
  const service = page.service || new URL(page.url).host;
  const outcome = await recordAndKeep(place, { ...page, service });
  return outcome.ok
    ? json({ load: outcome.load }, { status: 201 })
    : refused(outcome.message, outcome.status);
};
