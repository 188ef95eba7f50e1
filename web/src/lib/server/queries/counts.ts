import { CLOSED_STATES } from '@tromix/core/case/case';
import type { EvidenceKind } from '@tromix/core/evidence/kinds';
import { inScope, seriesOf, type InSeries } from '$lib/evidence/in-scope';
import { scopeWindow, type Scope } from '$lib/scope';
import { VIEWS } from '$lib/views';
import { select } from '../db/reader';
import { MOST_LISTED } from './evidence';

/** Numbers beside the views in the navigation: how many rows each lists. */
export type Counts = Partial<Record<EvidenceKind, number>> & { all: number; cases: number };

/** What is counted in other ways. */
const NOT_EVIDENCE = ['all', 'findings', 'cases', 'watches'] as const;
/** Kinds that a view lists; nothing else is counted with every page. */
const LISTED = VIEWS.flatMap(({ lists }) =>
  lists && !(NOT_EVIDENCE as readonly string[]).includes(lists) ? [lists as EvidenceKind] : []
);

const OF_KIND = `SELECT id, series, service, host, release, started_at_us AS startedAtUs, received_at_us AS receivedAtUs, duration_ns AS durationNs
  FROM evidence WHERE kind = ? ORDER BY coalesce(started_at_us, received_at_us) DESC LIMIT ${MOST_LISTED}`;

export async function countsOf(scope: Scope, nowMs: number): Promise<Counts> {
  const window = scopeWindow(scope, nowMs);
  const count = async (kind: EvidenceKind): Promise<[EvidenceKind, number]> => {
    const items = await select<InSeries>(OF_KIND, [kind]);
    const rows = kind === 'threads' ? seriesOf(items) : items;
    return [kind, rows.filter((one) => inScope(one, scope, window)).length];
  };
  const [counts, [{ all }], [{ cases }]] = await Promise.all([
    Promise.all(LISTED.map(count)),
    select<{ all: number }>('SELECT count(*) AS "all" FROM evidence'),
    select<{ cases: number }>(
      `SELECT count(*) AS cases FROM cases WHERE state NOT IN (SELECT value FROM json_each(?))`,
      [JSON.stringify(CLOSED_STATES)]
    )
  ]);
  return { ...Object.fromEntries(counts), all, cases };
}
