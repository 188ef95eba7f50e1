import type { InferInsertModel } from 'drizzle-orm';
import { LEDGER_KEYS, ledgerRecord } from '../db/ledger-columns';
import { columnsBut, rowsOf } from '../db/rows';
import { backgroundWork, failures, findings, requestParts, requests } from '../db/schema';
import type { Accounted, AccountedFailure, AccountedRequest, AccountedWork } from './accounting';
import type { Dictionary, KnownResource, Numbered } from './dictionary';
import { partRecord, writeParts, type PartRecord } from './parts-row';

export const REQUESTS = rowsOf(requests);
export const FINDINGS = rowsOf(findings, columnsBut(findings, 'id'));
export const BACKGROUND = rowsOf(backgroundWork);
export const FAILURES = rowsOf(failures, columnsBut(failures, 'id'));
export const PARTS = rowsOf(requestParts);

/** What the roll-ups read of a request. */
export const COUNTED_REQUESTS = rowsOf(requests, [
  'traceId',
  'endpointId',
  'hostId',
  'releaseId',
  'startUs',
  'durationNs',
  'failed',
  'exclusiveNs',
  'callCount',
  'run',
  ...LEDGER_KEYS
]);
export type CountedRequest = ReturnType<typeof COUNTED_REQUESTS.read>;

/** What they read of a finding; its subject has a number there, and its request a load run. */
export const COUNTED_FINDINGS = rowsOf(findings, [
  'traceId',
  'endpointId',
  'hostId',
  'releaseId',
  'startUs',
  'rule',
  'subject',
  'costNs',
  'isFirst'
]);
export type CountedFinding = ReturnType<typeof COUNTED_FINDINGS.read> & { subjectId: number; run: number };

/** What they read of a failure. */
export const COUNTED_FAILURES = rowsOf(failures, [
  'traceId',
  'groupId',
  'endpointId',
  'hostId',
  'releaseId',
  'startUs',
  'passesOn',
  'seen',
  'isFirst',
  'run'
]);
export type CountedFailure = ReturnType<typeof COUNTED_FAILURES.read>;

export type FailureRecord = Omit<InferInsertModel<typeof failures>, 'id'>;
type FindingRecord = Omit<InferInsertModel<typeof findings>, 'id'>;
/** Every column is given: what the sums read has no default. */
type RequestRecord = Required<InferInsertModel<typeof requests>>;

/** Rows to be written for some traces. */
export interface Booked {
  traceIds: string[];
  requests: { row: RequestRecord; parts: PartRecord[] }[];
  findings: { row: FindingRecord; subjectId: number; run: number }[];
  background: InferInsertModel<typeof backgroundWork>[];
  failures: FailureRecord[];
}

/** The rows of traces, once every name has its number. */
export function rowsFor(traces: readonly Accounted[], dictionary: Dictionary): Booked {
  const requests = traces.flatMap((trace) => trace.requests);
  for (const { process, startUs } of requests) dictionary.served(process, startUs);
  return {
    traceIds: traces.map(({ traceId }) => traceId),
    requests: requests.map((request) => ({
      row: requestRow(request, dictionary.runOf(request.span.traceId)),
      parts: partsOf(request)
    })),
    findings: requests.flatMap((request) => findingRows(request, dictionary.runOf(request.span.traceId))),
    background: traces.flatMap(({ background }) => background.map(backgroundRow)),
    failures: traces.flatMap(({ traceId, failures }) => failureRows(failures, dictionary.runOf(traceId)))
  };
}

const placeOf = ({ span, startUs, process }: AccountedWork) => ({
  traceId: span.traceId,
  spanId: span.spanId,
  serviceId: process.service.id,
  hostId: process.host.id,
  releaseId: process.release.id,
  startUs
});

const backgroundRow = (work: AccountedWork): Booked['background'][number] => ({
  ...placeOf(work),
  name: work.account.endpoint,
  durationNs: work.account.durationNs,
  failed: work.account.failed ? 1 : 0,
  spanCount: work.account.spanCount,
  callCount: work.account.callCount
});

function requestRow(request: AccountedRequest, run: number): RequestRecord {
  const { account, endpoint, process, pairs, parts, findings: found } = request;
  return {
    ...placeOf(request),
    endpointId: endpoint.id,
    durationNs: account.durationNs,
    failed: account.failed ? 1 : 0,
    exclusiveNs: account.exclusiveNs,
    callCount: account.callCount,
    ...ledgerRecord(account.ledger, account.exclusive),
    spanCount: account.spanCount,
    findingCount: found.length,
    resourceId: process.id,
    pairs: spaced(pairs.map(({ id }) => id)),
    callGroups: spaced(parts.filter(({ called }) => called).map(({ group }) => group.id)),
    rules: spaced([...new Set(found.map(({ finding }) => finding.rule))]),
    byRoot: account.kind === 'work' ? 1 : 0,
    run
  };
}

const partsOf = ({ parts }: AccountedRequest): PartRecord[] =>
  parts.map(({ part, group, origin }) => partRecord(part, group.id, origin.id));

export const partsRow = ({
  row,
  parts
}: Booked['requests'][number]): InferInsertModel<typeof requestParts> => ({
  traceId: row.traceId,
  spanId: row.spanId,
  parts: writeParts(parts)
});

function findingRows(request: AccountedRequest, run: number): Booked['findings'] {
  const { account, endpoint, findings: found } = request;
  const place = placeOf(request);
  const before = new Set<string>();
  return found.map(({ finding, subject }) => {
    const what = `${finding.rule} ${finding.subject}`;
    const isFirst = before.has(what) ? 0 : 1;
    before.add(what);
    return {
      subjectId: subject.id,
      run,
      row: {
        ...place,
        endpointId: endpoint.id,
        rule: finding.rule,
        severity: finding.severity,
        subject: finding.subject,
        // What lies beside the critical path of the outermost request costs nobody: shares are of time that counts once.
        costNs: Math.min(finding.costNs, account.exclusiveNs),
        isFirst,
        body: JSON.stringify(finding)
      }
    };
  });
}

function failureRows(list: readonly AccountedFailure[], run: number): FailureRecord[] {
  const before = new Set<string>();
  return list.map(({ failure, work, atUs, atSpanId, group, passesOn, way, person }) => {
    const place = placeOf(work);
    const what = `${place.spanId} ${group.id}`;
    const isFirst = before.has(what) ? 0 : 1;
    before.add(what);
    return {
      ...place,
      endpointId: work.endpoint?.id ?? 0,
      atSpanId,
      startUs: atUs,
      groupId: group.id,
      passesOn: passesOn?.id ?? 0,
      wayId: way?.id ?? 0,
      seen: failure.seen ? 1 : 0,
      isFirst,
      personId: person.id,
      run
    };
  });
}

/** A failure outside of every trace. @param evidenceId of a crash. @returns what makes its row once its names have numbers */
export const failureOutside =
  (of: {
    process: KnownResource;
    group: Numbered;
    way: Numbered;
    person?: Numbered;
    atUs: number;
    evidenceId?: string;
    /** Somebody waited, and saw it. */
    isSeen?: boolean;
  }): (() => FailureRecord) =>
  () => ({
    traceId: '',
    spanId: '',
    atSpanId: of.evidenceId ?? '',
    serviceId: of.process.service.id,
    endpointId: 0,
    hostId: of.process.host.id,
    releaseId: of.process.release.id,
    startUs: of.atUs,
    groupId: of.group.id,
    passesOn: 0,
    wayId: of.way.id,
    seen: of.isSeen ? 1 : 0,
    isFirst: 0,
    personId: of.person?.id ?? 0,
    run: 0
  });

/** A list as text in which each item stands between spaces. */
const spaced = (items: readonly (string | number)[]): string =>
  items.length > 0 ? ` ${items.join(' ')} ` : '';
