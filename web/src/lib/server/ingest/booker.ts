import type { Client, InStatement } from '@libsql/client';
import { findInRequest } from '@tromix/core/findings/request-findings';
import { apdexZone } from '@tromix/core/stats/apdex';
import { bucketOf } from '@tromix/core/stats/sketch';
import { accountTrace, subtree } from '@tromix/core/trace/requests';
import type { Span } from '@tromix/core/trace/span';
import { buildTree } from '@tromix/core/trace/tree';
import { bulkInsert, oneOf } from '../db/bulk';
import { LEDGER_COLUMNS, ledgerValues } from '../db/ledger-columns';
import type { Dictionary } from './dictionary';
import { RollupDelta, type Contribution } from './rollup';

const REQUEST_HEAD = [
  'trace_id',
  'span_id',
  'service_id',
  'endpoint_id',
  'host_id',
  'release_id',
  'start_us',
  'duration_ns',
  'failed',
  'exclusive_ns',
  'span_count',
  'call_count',
  'finding_count'
];
const REQUEST_COLUMNS = [...REQUEST_HEAD, ...LEDGER_COLUMNS];
const FINDING_COLUMNS = [
  'trace_id',
  'span_id',
  'service_id',
  'endpoint_id',
  'host_id',
  'release_id',
  'start_us',
  'rule',
  'severity',
  'subject',
  'cost_ns',
  'is_first',
  'body'
];
const US_PER_MINUTE = 60_000_000;

/**
 * Books whole traces: requests with their ledgers, findings, roll-ups. A trace that was booked before (late spans) is
 * taken out of everything and booked anew.
 * @returns the statements of one transaction; what the dictionary numbered meanwhile belongs before them.
 */
export async function bookTraces(
  client: Client,
  dictionary: Dictionary,
  traces: ReadonlyMap<string, readonly Span[]>
): Promise<InStatement[]> {
  const ids = JSON.stringify([...traces.keys()]);
  const rollup = new RollupDelta();
  const before = await client.execute({
    sql: `SELECT ${REQUEST_COLUMNS.join(', ')} FROM requests WHERE ${oneOf('trace_id')}`,
    args: [ids]
  });
  for (const row of before.rows)
    rollup.add(
      contributionOf(
        Array.from({ length: REQUEST_COLUMNS.length }, (_, i) => row[i]),
        dictionary
      ),
      -1
    );

  const requests: unknown[][] = [];
  const findings: unknown[][] = [];
  for (const spans of traces.values()) bookOne(spans, dictionary, requests, findings);
  for (const row of requests) rollup.add(contributionOf(row, dictionary), 1);

  const statements: InStatement[] = [];
  if (before.rows.length > 0) {
    statements.push({ sql: `DELETE FROM requests WHERE ${oneOf('trace_id')}`, args: [ids] });
    statements.push({ sql: `DELETE FROM findings WHERE ${oneOf('trace_id')}`, args: [ids] });
  }
  statements.push(bulkInsert('INSERT', 'requests', REQUEST_COLUMNS, requests));
  if (findings.length > 0) statements.push(bulkInsert('INSERT', 'findings', FINDING_COLUMNS, findings));
  statements.push(...(await rollup.statements(client)));
  statements.push({ sql: `DELETE FROM pending_traces WHERE ${oneOf('trace_id')}`, args: [ids] });
  return statements;
}

function bookOne(
  spans: readonly Span[],
  dictionary: Dictionary,
  requests: unknown[][],
  findings: unknown[][]
): void {
  const trace = accountTrace(buildTree(spans));
  const { tree } = trace;
  for (const request of trace.requests) {
    const { span } = tree.nodes[request.node];
    const startUs = tree.baseUs + Math.floor(tree.start[request.node] / 1000);
    const { serviceId, hostId, releaseId } = dictionary.resource(span.resource, startUs);
    const endpointId = dictionary.endpoint(serviceId, request.endpoint);
    const found = findInRequest(trace, request);
    const below = subtree(tree, request.node);
    const calls = below.reduce((count, node) => count + (tree.nodes[node].span.call ? 1 : 0), 0);
    const place = [span.traceId, span.spanId, serviceId, endpointId, hostId, releaseId, startUs];
    requests.push([
      ...place,
      request.durationNs,
      request.failed ? 1 : 0,
      request.exclusiveNs,
      below.length,
      calls,
      found.length,
      ...ledgerValues(request.ledger),
      ...ledgerValues(request.exclusive)
    ]);
    const subjects = new Set<string>();
    for (const finding of found) {
      const subject = `${finding.rule} ${finding.subject}`;
      const isFirst = subjects.has(subject) ? 0 : 1;
      subjects.add(subject);
      findings.push([
        ...place,
        finding.rule,
        finding.severity,
        finding.subject,
        finding.costNs,
        isFirst,
        JSON.stringify(finding)
      ]);
    }
  }
}

/** What a row of `requests` adds to its minute. */
function contributionOf(row: readonly unknown[], dictionary: Dictionary): Contribution {
  const [, , , endpointId, hostId, releaseId, startUs, durationNs, failed, exclusiveNs, , callCount] =
    row.map(Number);
  const zone = apdexZone(durationNs / 1e6, dictionary.apdexTMs(endpointId), failed === 1);
  const zones = (['satisfied', 'tolerating', 'frustrated'] as const).map((name) => (name === zone ? 1 : 0));
  return {
    key: [Math.floor(startUs / US_PER_MINUTE), endpointId, hostId, releaseId],
    sums: [
      1,
      failed,
      ...zones,
      durationNs,
      exclusiveNs,
      callCount,
      ...row.slice(REQUEST_HEAD.length).map(Number)
    ],
    bucket: bucketOf(durationNs / 1000)
  };
}
