import type { InStatement } from '@libsql/client';
import { requestParts } from '@tromix/core/calls/parts';
import { findInRequest } from '@tromix/core/findings/request-findings';
import { bucketOf, pairsOf, readSketch } from '@tromix/core/stats/sketch';
import { accountTrace, subtree, type RequestAccount, type TraceAccount } from '@tromix/core/trace/requests';
import type { Span } from '@tromix/core/trace/span';
import { buildTree } from '@tromix/core/trace/tree';
import { bulkInsert, oneOf } from '../db/bulk';
import type { Database } from '../db/database';
import { LEDGER_COLUMNS, ledgerValues } from '../db/ledger-columns';
import type { Dictionary } from './dictionary';
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
  'rules'
];
const FINDING_COLUMNS = [...PLACE, 'rule', 'severity', 'subject', 'cost_ns', 'is_first', 'body'];
const US_PER_MINUTE = 60_000_000;

/** Rows to be written for some traces. */
export interface Booked {
  traceIds: string[];
  requests: unknown[][];
  parts: [string, string, StoredPart[]][];
  findings: unknown[][];
}

/** Books whole traces: requests with their ledgers and parts, and findings. Reads and writes nothing but the dictionary. */
export function bookTraces(dictionary: Dictionary, traces: ReadonlyMap<string, readonly Span[]>): Booked {
  const booked: Booked = { traceIds: [...traces.keys()], requests: [], parts: [], findings: [] };
  for (const spans of traces.values()) bookOne(spans, dictionary, booked);
  return booked;
}

/**
 * What stores booked traces and adds them to the roll-ups. A trace that was booked before (late spans) is taken out of
 * everything first.
 * @param settled traces no span of which came meanwhile: these are pending no more.
 * @returns the statements of one transaction; what the dictionary numbered meanwhile belongs before them. Nothing else may
 * write between this and that transaction. And the first minute whose sums they change.
 */
export async function bookingStatements(
  database: Database,
  dictionary: Dictionary,
  booked: Booked,
  settled: readonly string[]
): Promise<{ statements: InStatement[]; firstMinute: number }> {
  const ids = JSON.stringify(booked.traceIds);
  const requestRollup = new RollupDelta(REQUEST_ROLLUP);
  const callRollup = new RollupDelta(CALL_ROLLUP);
  const findingRollup = new RollupDelta(FINDING_ROLLUP);
  const before = await database.query(
    `SELECT ${COUNTED.map((column) => `r.${column}`).join(', ')}, p.parts FROM requests r
      LEFT JOIN request_parts p ON p.trace_id = r.trace_id AND p.span_id = r.span_id WHERE ${oneOf('r.trace_id')}`,
    [ids]
  );
  for (const row of before.rows) {
    requestRollup.add(contributionOf(row), -1);
    const parts = JSON.parse(String(row[COUNTED.length] ?? '[]')) as StoredPart[];
    for (const part of parts) callRollup.add(callContributionOf(row, part), -1);
  }
  if (before.rows.length > 0) {
    const found = await database.query(
      `SELECT ${FINDING_COLUMNS.join(', ')} FROM findings WHERE ${oneOf('trace_id')}`,
      [ids]
    );
    for (const row of found.rows) findingRollup.add(findingContributionOf(row, dictionary), -1);
  }

  booked.requests.forEach((row, i) => {
    requestRollup.add(contributionOf(row), 1);
    for (const part of booked.parts[i][2]) callRollup.add(callContributionOf(row, part), 1);
  });
  for (const row of booked.findings) findingRollup.add(findingContributionOf(row, dictionary), 1);

  const statements: InStatement[] = [];
  if (before.rows.length > 0) {
    for (const table of ['requests', 'request_parts', 'findings'])
      statements.push({ sql: `DELETE FROM ${table} WHERE ${oneOf('trace_id')}`, args: [ids] });
  }
  statements.push(
    bulkInsert('INSERT', 'requests', REQUEST_COLUMNS, booked.requests),
    bulkInsert('INSERT', 'request_parts', ['trace_id', 'span_id', 'parts'], booked.parts)
  );
  if (booked.findings.length > 0)
    statements.push(bulkInsert('INSERT', 'findings', FINDING_COLUMNS, booked.findings));
  for (const rollup of [requestRollup, callRollup, findingRollup])
    statements.push(...(await rollup.statements(database)));
  statements.push({
    sql: `DELETE FROM pending_traces WHERE ${oneOf('trace_id')}`,
    args: [JSON.stringify(settled)]
  });
  return { statements, firstMinute: requestRollup.firstMinute };
}

function bookOne(spans: readonly Span[], dictionary: Dictionary, booked: Booked): void {
  const trace = accountTrace(buildTree(spans));
  for (const request of trace.requests) bookRequest(trace, request, dictionary, booked);
}

function bookRequest(
  trace: TraceAccount,
  request: RequestAccount,
  dictionary: Dictionary,
  booked: Booked
): void {
  const { tree } = trace;
  const { span } = tree.nodes[request.node];
  const startUs = tree.baseUs + Math.floor(tree.start[request.node] / 1000);
  const process = dictionary.resource(span.resource, startUs);
  const { id: resourceId, serviceId, hostId, releaseId } = process;
  dictionary.served(process, startUs);
  const endpointId = dictionary.endpoint(serviceId, request.endpoint);
  const found = findInRequest(trace, request);
  const below = subtree(tree, request.node);
  const calls = below.reduce((count, node) => count + (tree.nodes[node].span.call ? 1 : 0), 0);
  const place = [span.traceId, span.spanId, serviceId, endpointId, hostId, releaseId, startUs];

  const groups: number[] = [];
  const parts = requestParts(trace, request).map((part) => {
    const group = dictionary.callGroup(part.kind, part.name, part.verb);
    if (part.nodes.some((node) => tree.nodes[node].span.call)) groups.push(group);
    return storedPart(part, group, dictionary.origin(part.origin));
  });
  booked.parts.push([span.traceId, span.spanId, parts]);
  booked.requests.push([
    ...place,
    request.durationNs,
    request.failed ? 1 : 0,
    request.exclusiveNs,
    calls,
    ...ledgerValues(request.ledger),
    ...ledgerValues(request.exclusive),
    below.length,
    found.length,
    resourceId,
    spaced(dictionary.pairs(span.attributes, span.resource, resourceId)),
    spaced(groups),
    spaced([...new Set(found.map(({ rule }) => rule))])
  ]);
  const subjects = new Set<string>();
  for (const finding of found) {
    const subject = `${finding.rule} ${finding.subject}`;
    booked.findings.push([
      ...place,
      finding.rule,
      finding.severity,
      finding.subject,
      finding.costNs,
      subjects.has(subject) ? 0 : 1,
      JSON.stringify(finding)
    ]);
    subjects.add(subject);
  }
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

/** What a row of `findings` adds to its time: the first of its kind in a request counts the request. */
function findingContributionOf(row: readonly unknown[], dictionary: Dictionary): Contribution {
  const [endpointId, hostId, releaseId, startUs] = row.slice(3, 7).map(Number);
  const [rule, , subject, costNs, isFirst] = row.slice(PLACE.length);
  return {
    minute: Math.floor(startUs / US_PER_MINUTE),
    key: [0, dictionary.findingSubject(String(rule), String(subject)), endpointId, hostId, releaseId],
    sums: [Number(isFirst), Number(costNs)],
    greatest: [],
    sketches: []
  };
}
