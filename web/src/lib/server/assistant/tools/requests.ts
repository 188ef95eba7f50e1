import { formatCount, formatDuration } from '@tromix/core/text/format';
import { ACCOUNT_NAMES, ACCOUNTS } from '@tromix/core/trace/account';
import * as v from 'valibot';
import { requestOf } from '../../queries/request';
import { requestsOf } from '../../queries/requests';
import { callEvidenceReader } from '../../workers';
import { AskInstead, oneLine, paged } from '../answer';
import { newestData } from '../newest-data';
import { linkOf, PAGE, SCOPE, scopeOf, scopeWords } from '../scope-input';
import { tool } from '../tool';

/** Accounts named for each request of a list. */
const NAMED = 3;
const READ_MS = 30_000;

export const listRequests = tool({
  name: 'list_requests',
  says: 'Single requests of a scope, slowest first, each with where its time went and its id for read_request; with exact percentiles of all that match. Durations in ms as input, written with their unit.',
  input: {
    ...SCOPE,
    slower_than_ms: v.optional(
      v.pipe(v.number(), v.minValue(0), v.description('Only requests that took longer.'))
    ),
    failed: v.optional(
      v.pipe(v.boolean(), v.description('true: only failed ones; false: only those that did not fail.'))
    ),
    user: v.optional(v.pipe(v.string(), v.maxLength(300), v.description('Only requests of this user.'))),
    rule: v.optional(
      v.pipe(
        v.string(),
        v.maxLength(100),
        v.description('Only requests in which this rule found something, as list_findings names it.')
      )
    ),
    sort: v.optional(v.picklist(['duration', 'time', 'calls', 'findings']), 'duration'),
    page: PAGE
  },
  async answer({ page, sort, slower_than_ms, failed, user, rule, ...input }, { origin, nowMs }) {
    const scope = {
      ...scopeOf(input, nowMs),
      slower: slower_than_ms,
      status: failed === undefined ? undefined : failed ? ('failed' as const) : ('ok' as const),
      user: user ?? '',
      finding: rule ?? ''
    };
    const list = await requestsOf(scope, { sort, groupBy: '', columns: [] }, nowMs);
    if (list.count === 0)
      throw new AskInstead(`No such requests in ${scopeWords(scope)}. ${await newestData(nowMs)}`);
    const { rows, note } = paged(list.rows, page);
    return [
      `${formatCount(list.count)} requests match in ${scopeWords(scope)}, ${formatCount(list.failed)} of them failed: p50 ${formatDuration(list.p50Ns)}, p95 ${formatDuration(list.p95Ns)}, p99 ${formatDuration(list.p99Ns)}.`,
      '| request | service | endpoint | took | at | calls | findings | most of it |',
      '| --- | --- | --- | ---: | --- | ---: | ---: | --- |',
      ...rows.map((row) => {
        const most = ACCOUNTS.filter((account) => row.ledger[account] > 0)
          .toSorted((a, b) => row.ledger[b] - row.ledger[a])
          .slice(0, NAMED)
          .map((account) => `${ACCOUNT_NAMES[account]} ${formatDuration(row.ledger[account])}`);
        return `| ${row.traceId}/${row.spanId} | ${oneLine(row.service)} | ${oneLine(row.endpoint)} | ${formatDuration(row.durationNs)}${row.failed ? ', failed' : ''} | ${new Date(row.startUs / 1000).toISOString()} | ${formatCount(row.calls)} | ${row.findings} | ${most.join(', ')} |`;
      }),
      note,
      linkOf(origin, '/requests', scope)
    ];
  }
});

export const readRequest = tool({
  name: 'read_request',
  says: 'One request whole: where its time went (accounts that add up to its duration), what rules found in it and what each remedy should save, its calls with count, time and the line that makes them.',
  input: {
    request: v.pipe(
      v.string(),
      v.regex(
        /^[0-9a-f]{32}\/[0-9a-f]{16}$/,
        'Expected trace/span as list_requests and list_findings name it: 32 and 16 hexadecimal digits.'
      ),
      v.description('trace/span, as list_requests names it.')
    )
  },
  async answer({ request }, { origin, nowMs }) {
    const [traceId, spanId] = request.split('/');
    const found = await requestOf(scopeOf({}, nowMs), traceId, spanId, nowMs);
    if (!found) throw new AskInstead('This request is not kept here. Ask list_requests for those that are.');
    const address = linkOf(origin, `/requests/${request}`, null);
    const text = await callEvidenceReader((reader) => reader.request(found, address), READ_MS);
    const near = [
      ...found.profiles.map(({ id }) => `a profile covers it: read_profile ${id}`),
      ...found.dumps.map(({ id }) => `a thread dump was taken meanwhile: read_threads ${id}`),
      ...(found.normal ? [`a normal request of the same endpoint: ${found.normal}`] : [])
    ];
    return [...text.trimEnd().split('\n'), ...near.map((line) => `- ${line}`)];
  }
});
