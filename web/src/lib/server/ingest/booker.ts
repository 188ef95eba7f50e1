import type { InStatement } from '@libsql/client';
import { requestParts, type RequestPart } from '@tromix/core/calls/parts';
import type { Finding } from '@tromix/core/findings/finding';
import { findInRequest } from '@tromix/core/findings/request-findings';
import { bucketOf, pairsOf, readSketch } from '@tromix/core/stats/sketch';
import { isEntry, isUnrouted } from '@tromix/core/trace/endpoint';
import { accountTrace, type RequestAccount, type TraceAccount } from '@tromix/core/trace/requests';
import type { Span } from '@tromix/core/trace/span';
import { buildTree } from '@tromix/core/trace/tree';
import { bulkInsert, oneOf } from '../db/bulk';
import { jsonOf, type Database } from '../db/database';
import { LEDGER_COLUMNS, ledgerValues } from '../db/ledger-columns';
import type { Dictionary, KnownResource, Numbered } from './dictionary';
import { storedPart, type StoredPart } from './parts-row';
import { RollupDelta, type Contribution } from './rollup';
import { CALL_ROLLUP, FINDING_ROLLUP, REQUEST_ROLLUP } from './rollup-shapes';

/** The columns by which requests and findings are found alike. */
const PLACE = ['trace_id', 'span_id', 'service_id', 'endpoint_id', 'host_id', 'release_id', 'start_us'];
const FIGURES = ['duration_ns', 'failed', 'exclusive_ns', 'call_count'];
/** What a request adds to the roll-ups is read from these. */
const COUNTED = [...PLACE, ...FIGURES, ...LEDGER_COLUMNS];
const REQUEST_COLUMNS = [
  ...COUNTED,
  'span_count',
  'finding_count',
  'resource_id',
  'pairs',
  'call_groups',
  'rules',
  'by_root'
];
const FINDING_COLUMNS = [...PLACE, 'rule', 'severity', 'subject', 'cost_ns', 'is_first', 'body'];
const BACKGROUND_COLUMNS = [
  'trace_id',
  'span_id',
  'service_id',
  'host_id',
  'release_id',
  'name',
  'start_us',
  'duration_ns',
  'failed',
  'span_count',
  'call_count'
];
const US_PER_MINUTE = 60_000_000;

/** Rows to be written for some traces. */
export interface Booked {
  traceIds: string[];
  requests: unknown[][];
  parts: [string, string, StoredPart[]][];
  findings: unknown[][];
  background: unknown[][];
}

/** What a trace has come to, with names that may still have no number. */
export interface Accounted {
  traceId: string;
  requests: AccountedRequest[];
  background: AccountedWork[];
}

/** A root span that serves nobody. */
interface AccountedWork {
  span: Span;
  startUs: number;
  account: RequestAccount;
  process: KnownResource;
}

interface AccountedRequest extends AccountedWork {
  endpoint: Numbered;
  pairs: Numbered[];
  parts: { part: RequestPart; group: Numbered; origin: Numbered; called: boolean }[];
  findings: { finding: Finding; subject: Numbered }[];
}

/** Accounts for one whole trace: requests with their ledgers and parts, and findings. Writes nothing but names into the dictionary. */
export function accountFor(traceId: string, spans: readonly Span[], dictionary: Dictionary): Accounted {
  const trace = accountTrace(buildTree(spans));
  const accounted: Accounted = { traceId, requests: [], background: [] };
  // Innermost first: an entry span inside a root span tells that its service serves.
  for (const account of trace.requests.toReversed()) {
    const work = placeOf(trace, account, dictionary);
    if (account.kind === 'request' && isEntry(work.span)) dictionary.serves(work.process);
    if (isBackground(work, dictionary)) accounted.background.unshift(work);
    else accounted.requests.unshift(accountRequest(trace, work, dictionary));
  }
  return accounted;
}

/** Background work; of a service that sends no entry spans its root spans with calls are the only account of what it does for somebody. */
const isBackground = ({ account, process }: AccountedWork, dictionary: Dictionary): boolean =>
  account.kind === 'background' || (account.kind === 'work' && dictionary.isServing(process));

function placeOf({ tree }: TraceAccount, account: RequestAccount, dictionary: Dictionary): AccountedWork {
  const { span } = tree.nodes[account.node];
  const startUs = tree.baseUs + Math.floor(tree.start[account.node] / 1000);
  return { span, startUs, account, process: dictionary.resource(span.resource, startUs) };
}

function accountRequest(trace: TraceAccount, work: AccountedWork, dictionary: Dictionary): AccountedRequest {
  const { tree } = trace;
  const { span, account, process } = work;
  return {
    ...work,
    endpoint: dictionary.endpoint(process, account.endpoint, isUnrouted(span)),
    pairs: dictionary.pairs(span.attributes, span.resource, process),
    parts: requestParts(trace, account).map((part) => ({
      part,
      group: dictionary.callGroup(part.kind, part.name, part.verb),
      origin: dictionary.origin(part.origin),
      called: part.nodes.some((node) => tree.nodes[node].call)
    })),
    findings: findInRequest(trace, account).map((finding) => ({
      finding,
      subject: dictionary.findingSubject(finding.rule, finding.subject)
    }))
  };
}

/** The rows of traces, once every name has its number. */
export function rowsFor(traces: readonly Accounted[], dictionary: Dictionary): Booked {
  const booked: Booked = {
    traceIds: traces.map(({ traceId }) => traceId),
    requests: [],
    parts: [],
    findings: [],
    background: []
  };
  for (const { requests, background } of traces) {
    for (const request of requests) addRows(request, dictionary, booked);
    for (const work of background) booked.background.push(backgroundRow(work));
  }
  return booked;
}

function backgroundRow({ span, startUs, account, process }: AccountedWork): unknown[] {
  const { service, host, release } = process;
  const failed = account.failed ? 1 : 0;
  const place = [span.traceId, span.spanId, service.id, host.id, release.id, account.endpoint, startUs];
  return [...place, account.durationNs, failed, account.spanCount, account.callCount];
}

function addRows(request: AccountedRequest, dictionary: Dictionary, booked: Booked): void {
  const { span, startUs, account, process, findings } = request;
  const { service, host, release } = process;
  dictionary.served(process, startUs);
  const place = [span.traceId, span.spanId, service.id, request.endpoint.id, host.id, release.id, startUs];
  const groups = request.parts.filter(({ called }) => called).map(({ group }) => group.id);
  booked.parts.push([
    span.traceId,
    span.spanId,
    request.parts.map(({ part, group, origin }) => storedPart(part, group.id, origin.id))
  ]);
  booked.requests.push([
    ...place,
    account.durationNs,
    account.failed ? 1 : 0,
    account.exclusiveNs,
    account.callCount,
    ...ledgerValues(account.ledger),
    ...ledgerValues(account.exclusive),
    account.spanCount,
    findings.length,
    process.id,
    spaced(request.pairs.map(({ id }) => id)),
    spaced(groups),
    spaced([...new Set(findings.map(({ finding }) => finding.rule))]),
    account.kind === 'work' ? 1 : 0
  ]);
  const subjects = new Set<string>();
  for (const { finding } of findings) {
    const subject = `${finding.rule} ${finding.subject}`;
    booked.findings.push([
      ...place,
      finding.rule,
      finding.severity,
      finding.subject,
      // What lies beside the critical path of the outermost request costs nobody: shares are of time that counts once.
      Math.min(finding.costNs, account.exclusiveNs),
      subjects.has(subject) ? 0 : 1,
      JSON.stringify(finding)
    ]);
    subjects.add(subject);
  }
}

/**
 * What stores booked traces and adds them to the roll-ups. A trace that was booked before (late spans) is taken out of
 * everything first. One that was counted once and removed since is stored, but not counted again.
 * @param read up to which mark each trace's spans were read: a mark that is newer stays.
 * @returns the statements of one transaction; what the dictionary noted meanwhile belongs before them. Nothing else may
 * write between this and that transaction. And the first minute whose sums they change.
 */
export async function bookingStatements(
  database: Database,
  dictionary: Dictionary,
  booked: Booked,
  read: ReadonlyMap<string, number>
): Promise<{ statements: InStatement[]; firstMinute: number }> {
  const ids = JSON.stringify(booked.traceIds);
  const requestRollup = new RollupDelta(REQUEST_ROLLUP);
  const callRollup = new RollupDelta(CALL_ROLLUP);
  const findingRollup = new RollupDelta(FINDING_ROLLUP);
  const counted = await countedBefore(database, ids);
  const before = await database.query(
    `SELECT ${COUNTED.map((column) => `r.${column}`).join(', ')}, p.parts FROM requests r
      LEFT JOIN request_parts p ON p.trace_id = r.trace_id AND p.span_id = r.span_id WHERE ${oneOf('r.trace_id')}`,
    [ids]
  );
  for (const row of before.rows) {
    if (counted.has(String(row[0]))) continue;
    requestRollup.add(contributionOf(row), -1);
    const parts = JSON.parse(String(row[COUNTED.length] ?? '[]')) as StoredPart[];
    for (const part of parts) callRollup.add(callContributionOf(row, part), -1);
  }
  if (before.rows.length > 0) {
    const found = await database.query(
      `SELECT ${FINDING_COLUMNS.join(', ')} FROM findings WHERE ${oneOf('trace_id')}`,
      [ids]
    );
    const gone = found.rows
      .filter((row) => !counted.has(String(row[0])))
      .map((row) => ({ row, subject: subjectOf(row, dictionary) }));
    await dictionary.learn(database);
    for (const { row, subject } of gone) findingRollup.add(findingContributionOf(row, subject.id), -1);
  }

  booked.requests.forEach((row, i) => {
    if (counted.has(String(row[0]))) return;
    requestRollup.add(contributionOf(row), 1);
    for (const part of booked.parts[i][2]) callRollup.add(callContributionOf(row, part), 1);
  });
  for (const row of booked.findings)
    if (!counted.has(String(row[0])))
      findingRollup.add(findingContributionOf(row, subjectOf(row, dictionary).id), 1);

  const statements: InStatement[] = [
    { sql: `DELETE FROM background_work WHERE ${oneOf('trace_id')}`, args: [ids] }
  ];
  if (before.rows.length > 0) {
    for (const table of ['requests', 'request_parts', 'findings'])
      statements.push({ sql: `DELETE FROM ${table} WHERE ${oneOf('trace_id')}`, args: [ids] });
  }
  if (booked.requests.length > 0)
    statements.push(
      bulkInsert('INSERT', 'requests', REQUEST_COLUMNS, booked.requests),
      bulkInsert('INSERT OR REPLACE', 'request_parts', ['trace_id', 'span_id', 'parts'], booked.parts)
    );
  if (booked.findings.length > 0)
    statements.push(bulkInsert('INSERT', 'findings', FINDING_COLUMNS, booked.findings));
  if (booked.background.length > 0)
    statements.push(bulkInsert('INSERT', 'background_work', BACKGROUND_COLUMNS, booked.background));
  for (const rollup of [requestRollup, callRollup, findingRollup])
    statements.push(...(await rollup.statements(database)));
  statements.push({
    sql: 'DELETE FROM pending_traces WHERE (trace_id, generation) IN (SELECT value->>0, value->>1 FROM json_each(?))',
    args: [JSON.stringify([...read])]
  });
  return { statements, firstMinute: requestRollup.firstMinute };
}

/** Those of some traces that were counted once and removed since. */
async function countedBefore(database: Database, ids: string): Promise<Set<string>> {
  const list = await jsonOf<string>(
    database,
    `SELECT json_group_array(j.value) FROM json_each(?) j JOIN removed_traces t ON t.trace_id = unhex(j.value)`,
    [ids]
  );
  return new Set(list);
}

/** A list as text in which each item stands between spaces. */
const spaced = (items: readonly (string | number)[]): string =>
  items.length > 0 ? ` ${items.join(' ')} ` : '';

/** What a row of `requests` adds to its time. */
function contributionOf(row: readonly unknown[]): Contribution {
  const [endpointId, hostId, releaseId, startUs, durationNs, failed, exclusiveNs, callCount] = row
    .slice(3, 11)
    .map(Number);
  const bucket = [[bucketOf(durationNs / 1000), 1]] as const;
  return {
    minute: Math.floor(startUs / US_PER_MINUTE),
    key: [0, endpointId, hostId, releaseId],
    sums: [1, failed, durationNs, exclusiveNs, callCount, ...row.slice(11, COUNTED.length).map(Number)],
    greatest: [],
    sketches: [bucket, failed === 1 ? bucket : []]
  };
}

/** What one part of a request adds to its time. */
function callContributionOf(row: readonly unknown[], part: StoredPart): Contribution {
  const [endpointId, hostId, releaseId, startUs] = row.slice(3, 7).map(Number);
  const [groupId, originId, calls, ...rest] = part.slice(0, 13).map(Number);
  const slowestNs = rest[rest.length - 1];
  return {
    minute: Math.floor(startUs / US_PER_MINUTE),
    key: [groupId, originId, endpointId, hostId, releaseId],
    sums: [1, calls, ...rest.slice(0, -1)],
    greatest: [slowestNs, calls],
    sketches: [pairsOf(readSketch(part[13] as string))]
  };
}

function subjectOf(row: readonly unknown[], dictionary: Dictionary): Numbered {
  const [rule, , subject] = row.slice(PLACE.length);
  return dictionary.findingSubject(String(rule), String(subject));
}

/** What a row of `findings` adds to its time: the first of its kind in a request counts the request. */
function findingContributionOf(row: readonly unknown[], subjectId: number): Contribution {
  const [endpointId, hostId, releaseId, startUs] = row.slice(3, 7).map(Number);
  const [, , , costNs, isFirst] = row.slice(PLACE.length);
  return {
    minute: Math.floor(startUs / US_PER_MINUTE),
    key: [0, subjectId, endpointId, hostId, releaseId],
    sums: [Number(isFirst), Number(costNs)],
    greatest: [],
    sketches: []
  };
}
