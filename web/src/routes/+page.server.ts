import { againstFrom } from '$lib/server/queries/compared';
import { overviewOf, ROW_KINDS, ROW_RANKS, type RowKind, type RowRank } from '$lib/server/queries/overview';
import { mostFailing } from '$lib/server/queries/failures';
import { scopeFrom } from '$lib/scope';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url, depends }) => {
  depends('tromix:data');
  const asked = (name: string): string => url.searchParams.get(name) ?? '';
  const kind: RowKind = ROW_KINDS.find((one) => one === asked('rows')) ?? 'endpoints';
  const against = againstFrom(asked('against'));
  const rank: RowRank = ROW_RANKS.find((one) => one === asked('rank')) ?? 'total';
  const scope = scopeFrom(url.searchParams);
  const nowMs = Date.now();
  const [overview, failing] = await Promise.all([
    overviewOf(scope, nowMs, { kind, against, rank }),
    mostFailing(scope, nowMs)
  ]);
  return { overview, failing, kind, against, rank };
};
