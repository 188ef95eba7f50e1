import { requestParts, type RequestPart } from '@tromix/core/calls/parts';
import type { Finding } from '@tromix/core/findings/finding';
import { findInRequest } from '@tromix/core/findings/request-findings';
import { RUN_KEY } from '@tromix/core/load/spans';
import { withLoggedFailures, type LoggedFailure } from '@tromix/core/failures/logged-failures';
import type { MapFrame } from '@tromix/core/failures/identity';
import { kindOfFailure } from '@tromix/core/failures/failure-kind';
import { failuresIn, type TraceFailure } from '@tromix/core/failures/trace-failures';
import { isEntry, isUnrouted } from '@tromix/core/trace/endpoint';
import { accountTrace, type RequestAccount, type TraceAccount } from '@tromix/core/trace/requests';
import type { Span } from '@tromix/core/trace/span';
import { buildTree } from '@tromix/core/trace/tree';
import type { Dictionary, KnownResource, Numbered } from './dictionary';

/** What is stored of a trace. */
export interface TraceRecords {
  spans: Span[];
  /** What its log records tell of failures. */
  logged: LoggedFailure[];
}

/** What a trace has come to, with names that may still have no number. */
export interface Accounted {
  traceId: string;
  requests: AccountedRequest[];
  background: AccountedWork[];
  failures: AccountedFailure[];
}

/** Something that failed, in a request or in work that serves nobody. */
export interface AccountedFailure {
  failure: TraceFailure;
  /** The request or the work it happened in. */
  work: AccountedWork & { endpoint?: Numbered };
  /** When it happened, epoch microseconds. */
  atUs: number;
  atSpanId: string;
  group: Numbered;
  passesOn: Numbered | null;
  way: Numbered | null;
  person: Numbered;
}

/** A root span that serves nobody. */
export interface AccountedWork {
  span: Span;
  startUs: number;
  account: RequestAccount;
  process: KnownResource;
}

export interface AccountedRequest extends AccountedWork {
  endpoint: Numbered;
  pairs: Numbered[];
  parts: { part: RequestPart; group: Numbered; origin: Numbered; called: boolean }[];
  findings: { finding: Finding; subject: Numbered }[];
}

/** Accounts for one whole trace: requests with their ledgers and parts, and findings. Writes nothing but names into the dictionary. */
export function accountFor(
  traceId: string,
  { spans, logged }: TraceRecords,
  dictionary: Dictionary,
  mapFrame?: MapFrame
): Accounted {
  const trace = accountTrace(buildTree(withLoggedFailures(spans, logged)));
  const requests: AccountedRequest[] = [];
  const background: AccountedWork[] = [];
  // Innermost first: an entry span inside a root span shows that its service serves.
  for (const account of trace.requests.toReversed()) {
    // Who waits for a load run is its driver: it serves nobody, and is no work in the background of anything.
    if (isDriver(trace.tree.nodes[account.node].span)) continue;
    const work = placeOf(trace, account, dictionary);
    if (account.kind === 'request' && isEntry(work.span)) dictionary.serves(work.process);
    if (isBackground(work, dictionary)) background.push(work);
    else requests.push(accountRequest(trace, work, dictionary));
  }
  const failures = failuresOf(trace, [...requests, ...background], dictionary, mapFrame);
  return { traceId, requests: requests.reverse(), background: background.reverse(), failures };
}

function failuresOf(
  { tree }: TraceAccount,
  work: readonly AccountedWork[],
  dictionary: Dictionary,
  mapFrame?: MapFrame
): AccountedFailure[] {
  const found = failuresIn(tree, mapFrame);
  if (found.length === 0) return [];
  const byNode = new Map(work.map((one) => [one.account.node, one]));
  const named = [...byNode.values()].map(({ span }) => span.attributes).reverse();
  const groups = found.map(({ identity, exception }) =>
    dictionary.failureGroup(identity, kindOfFailure(exception))
  );
  const person = dictionary.person(named);
  return found.flatMap((failure, i) => {
    const of = byNode.get(failure.request);
    if (!of) return [];
    return {
      failure,
      work: of,
      atUs: tree.baseUs + Math.floor(failure.atNs / 1000),
      atSpanId: tree.nodes[failure.node].span.spanId,
      group: groups[i],
      passesOn: failure.passesOn < 0 ? null : groups[failure.passesOn],
      way: failure.passesOn < 0 ? dictionary.failureWay(failure.way) : null,
      person
    };
  });
}

const isDriver = ({ resource }: Span): boolean => resource.attributes.has(RUN_KEY);

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
  const parts = requestParts(trace, account);
  return {
    ...work,
    endpoint: dictionary.endpoint(process, account.endpoint, isUnrouted(span)),
    pairs: dictionary.pairs(span.attributes, span.resource, process),
    parts: parts.map((part) => ({
      part,
      group: dictionary.callGroup(part.kind, part.name, part.verb, part.callee),
      origin: dictionary.origin(part.origin),
      called: part.nodes.some((node) => tree.nodes[node].call)
    })),
    findings: findInRequest(trace, account, parts).map((finding) => ({
      finding,
      subject: dictionary.findingSubject(finding.rule, finding.subject)
    }))
  };
}
