import { error, redirect } from '@sveltejs/kit';
import type { PageServerLoad } from './$types';

/** A request as the end of its address: trace and span. */
const REQUEST = /^[0-9a-f]{32}\/[0-9a-f]{16}$/;

/** Two requests: the later side's view holds it beside the other, span by span. */
export const load: PageServerLoad = ({ url }) => {
  for (const side of ['before', 'after'])
    if (!REQUEST.test(url.searchParams.get(side) ?? ''))
      error(400, 'Two requests are held beside each other by before=TRACE/SPAN and after=TRACE/SPAN.');
  const query = new URLSearchParams(url.searchParams);
  query.delete('after');
  query.set('tab', 'beside');
  redirect(307, `/requests/${url.searchParams.get('after')}?${query}`);
};
