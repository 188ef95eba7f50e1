import { error } from '@sveltejs/kit';
import { evidenceOf, evidenceSeries, itemOfKind } from '$lib/server/queries/evidence';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params, url, depends }) => {
  depends('tromix:evidence');
  const item = await itemOfKind(params.id, 'heap');
  if (!item) error(404, 'There is no such heap dump. It may have been removed.');
  const series = await evidenceSeries(item);
  // Dumps that do not name their process may be held against any other of their format.
  const others =
    item.series === '' ? (await evidenceOf('heap')).filter(({ format }) => format === item.format) : series;
  const asked = url.searchParams.get('before');
  const earlier = others.filter(
    ({ id, startedAtUs }) => id !== item.id && (startedAtUs ?? 0) <= (item.startedAtUs ?? Infinity)
  );
  // Any two may be chosen in Compare.
  const named = asked && earlier.every(({ id }) => id !== asked) ? await itemOfKind(asked, 'heap') : null;
  if (named && named.id !== item.id) earlier.unshift(named);
  const allocation = (await evidenceOf('profile')).find(
    ({ summary, service, pid }) =>
      summary?.valueType === 'allocation' &&
      service === item.service &&
      service !== '' &&
      (pid === item.pid || item.pid === 0)
  );
  return { item, earlier, inSeries: item.series !== '', allocation: allocation?.id ?? null };
};
