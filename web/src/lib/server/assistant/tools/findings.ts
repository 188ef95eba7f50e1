import { formatCount, formatDuration, formatShare } from '@tromix/core/text/format';
import { scopeWindow } from '$lib/scope';
import { findingsOf } from '../../queries/findings';
import { totalIn } from '../../queries/rollups';
import { AskInstead, oneLine, paged } from '../answer';
import { newestData } from '../newest-data';
import { linkOf, PAGE, SCOPE, scopeOf, scopeWords } from '../scope-input';
import { tool } from '../tool';

const MOST = 200;

export const listFindings = tool({
  name: 'list_findings',
  says: 'What rules found in the requests of a scope, costliest first: query per row, lock waits, slow calls and so on. Each with its evidence, the line of code that causes it where that is known, what to do, and one example request for read_request.',
  input: { ...SCOPE, page: PAGE },
  async answer({ page, ...input }, { origin, nowMs }) {
    const scope = scopeOf(input, nowMs);
    const window = scopeWindow(scope, nowMs);
    const totals = await totalIn(scope, window, nowMs);
    if (totals.count === 0)
      throw new AskInstead(`No requests in ${scopeWords(scope)}. ${await newestData(nowMs)}`);
    const all = await findingsOf(scope, window, nowMs, totals.exclusiveNs, { limit: MOST, aside: false });
    const { rows, note } = paged(
      all.filter(({ gone }) => gone === null),
      page
    );
    if (rows.length === 0)
      return [`No rule found anything in ${formatCount(totals.count)} requests of ${scopeWords(scope)}.`];
    return [
      `${formatCount(totals.count)} requests in ${scopeWords(scope)}.`,
      ...rows.flatMap((found) => [
        `- **${found.title}** in ${oneLine(found.endpoint)} of ${oneLine(found.service)} (rule ${found.rule}, ${found.severity}): ${formatCount(found.requests)} requests, ${formatDuration(found.costNs)} in all, ${formatShare(found.share)} of the time here.`,
        `  ${oneLine(found.sentence, 500)} ${found.growth}`.trimEnd(),
        ...(found.fingerprint ? [`  call: ${oneLine(found.fingerprint)}`] : []),
        ...(found.origin
          ? [`  line: ${oneLine(found.origin)} (read_source shows it)`]
          : ['  line: not told by the evidence']),
        `  remedy: ${oneLine(found.remedy)}`,
        ...(found.example ? [`  example request: ${found.example.traceId}/${found.example.spanId}`] : [])
      ]),
      note,
      linkOf(origin, '/findings', scope)
    ];
  }
});
