import { AGAINSTS, overviewOf, ROW_KINDS, type Against, type RowKind } from '$lib/server/queries/overview';
import { scopeFrom } from '$lib/scope';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url, depends }) => {
  depends('tromix:data');
  const asked = (name: string): string => url.searchParams.get(name) ?? '';
  const kind: RowKind = ROW_KINDS.find((one) => one === asked('rows')) ?? 'endpoints';
  const against: Against = AGAINSTS.find((one) => one === asked('against')) ?? 'auto';
  const overview = await overviewOf(scopeFrom(url.searchParams), Date.now(), { kind, against });
  return { overview, kind, against, rank: asked('rank') };
};
