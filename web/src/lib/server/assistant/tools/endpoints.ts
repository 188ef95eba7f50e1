import { changeRank } from '@tromix/core/stats/rank-test';
import { formatCount, formatDuration, formatShare } from '@tromix/core/text/format';
import * as v from 'valibot';
import { changeLook } from '$lib/ui/kit/change';
import { overviewOf, ROW_RANKS, type OverviewRow, type RowRank } from '../../queries/overview';
import { AskInstead, oneLine, paged } from '../answer';
import { newestData } from '../newest-data';
import { linkOf, PAGE, SCOPE, scopeOf, scopeWords } from '../scope-input';
import { tool } from '../tool';

const WORTH: Record<RowRank, (row: OverviewRow) => number> = {
  total: (row) => row.exclusiveNs,
  count: (row) => row.count,
  mean: (row) => row.meanNs,
  p95: (row) => row.p95Ns,
  frustrated: (row) => row.zones.frustrated,
  failed: (row) => row.failed,
  change: (row) => changeRank(row.change) ?? -1
};

export const listEndpoints = tool({
  name: 'list_endpoints',
  says: 'Endpoints ranked by what they cost: requests, share of all time, median, p95, failed, and where the time goes. The place to begin. Times in ns, µs, ms or s as written.',
  input: {
    ...SCOPE,
    rank: v.optional(
      v.pipe(
        v.picklist(ROW_RANKS),
        v.description(
          'total time, count, mean, p95, frustrated (by Apdex), failed, or change (against the time or release before)'
        )
      ),
      'total'
    ),
    page: PAGE
  },
  async answer({ rank, page, ...input }, { origin, nowMs }) {
    const scope = scopeOf(input, nowMs);
    const { rows, all, turn } = await overviewOf(scope, nowMs, { kind: 'endpoints', against: 'auto', rank });
    if (all.count === 0)
      throw new AskInstead(`No requests in ${scopeWords(scope)}. ${await newestData(nowMs)}`);
    const { rows: shown, note } = paged(
      rows.toSorted((a, b) => WORTH[rank](b) - WORTH[rank](a)),
      page
    );
    return [
      `${formatCount(all.count)} requests in ${scopeWords(scope)}.`,
      turn.kind === 'release'
        ? `"change" is since ${turn.service} ${turn.release}.`
        : '"change" is against the time before.',
      '| service | endpoint | requests | share of time | median | p95 | failed | change of the median | findings |',
      '| --- | --- | ---: | ---: | ---: | ---: | ---: | --- | ---: |',
      ...shown.map(
        (row) =>
          `| ${oneLine(row.service)} | ${oneLine(row.name)} | ${formatCount(row.count)} | ${formatShare(row.share)} | ${formatDuration(row.p50Ns)} | ${formatDuration(row.p95Ns)} | ${formatCount(row.failed)} | ${changeLook(row.change).text} | ${row.findings} |`
      ),
      note,
      linkOf(origin, '/', scope)
    ];
  }
});
