import { takePageProfile } from '$lib/server/evidence/page-profile';
import { beforeSending, takeFromPage } from '$lib/server/http/collect';
import type { RequestHandler } from './$types';

/** A profile that a page made of itself while it loaded. */
export const POST: RequestHandler = ({ request, url, params }) =>
  takeFromPage(request, url, (body) => takePageProfile(params.trace, body));

export const OPTIONS: RequestHandler = ({ request }) => beforeSending(request);
