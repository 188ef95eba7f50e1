import { requestParts } from '../calls/parts';
import { findBelow } from '../findings/request-findings';
import { serviceOf, startUsOf, type FoundRequest } from '../inspect/accounted-batches';
import { ACCOUNTS } from '../trace/account';
import type { PartTotal, SideTotals } from './difference-ledger';
import type { FoundIn } from './finding-changes';

/** By what the time of a request is told apart. */
export const LEDGERS = ['part', 'account', 'service'] as const;
export type LedgerBy = (typeof LEDGERS)[number];

/** One side of a comparison: requests of one endpoint, or of one scope. */
export interface ComparedSide {
  /** Durations in order of time, nanoseconds. */
  durationsNs: Float64Array;
  /** Calls of each of them, with everything below it. */
  calls: Float64Array;
  /** When the first began and the last one, epoch microseconds; NaN without requests. */
  fromUs: number;
  toUs: number;
  failed: number;
  /** Each of them adds up to the durations. */
  totals: Record<LedgerBy, SideTotals>;
  findings: FoundIn[];
}

/** Takes requests together as one side. */
export function sideOf(requests: readonly FoundRequest[]): ComparedSide {
  const ordered = requests.toSorted((a, b) => startUsOf(a) - startUsOf(b));
  const durationsNs = Float64Array.from(ordered, ({ request }) => request.durationNs);
  const totalNs = durationsNs.reduce((sum, took) => sum + took, 0);
  const sums = { part: new PartSums(), account: new PartSums(), service: new PartSums() };
  const findings = new Map<string, FoundIn>();
  for (const one of ordered) {
    addParts(one, sums.part, findings);
    addAccounts(one, sums.account);
    addServices(one, sums.service);
  }
  const totals = (parts: PartSums): SideTotals => ({
    requests: ordered.length,
    totalNs,
    parts: parts.list()
  });
  return {
    durationsNs,
    calls: Float64Array.from(ordered, ({ request }) => request.callCount),
    fromUs: ordered.length > 0 ? startUsOf(ordered[0]) : NaN,
    toUs: ordered.length > 0 ? startUsOf(ordered[ordered.length - 1]) : NaN,
    failed: ordered.filter(({ request }) => request.failed).length,
    totals: { part: totals(sums.part), account: totals(sums.account), service: totals(sums.service) },
    findings: [...findings.values()]
  };
}

function addParts({ trace, request }: FoundRequest, sums: PartSums, findings: Map<string, FoundIn>): void {
  for (const { kind, name, verb, count, bookedNs, nodes } of requestParts(trace, request)) {
    const above = trace.tree.parent[nodes[0]];
    const parent = nodes[0] === request.node || above < 0 ? '' : nameOf(trace.tree.nodes[above]);
    sums.add({ kind, name, verb, parent, count, bookedNs });
  }
  // A finding counts once for a request, however often it is reached in it.
  const found = new Map(findBelow(trace, request).map((one) => [`${one.rule}\n${one.subject}`, one]));
  for (const [key, { rule, subject }] of found) {
    const known = findings.get(key);
    if (known) known.requests++;
    else findings.set(key, { rule, subject, requests: 1 });
  }
}

const nameOf = ({ span, call }: FoundRequest['trace']['tree']['nodes'][number]): string =>
  call?.fingerprint ?? span.name;

/** Accounts have no calls: each request has one of those it spends time in. */
function addAccounts({ request }: FoundRequest, sums: PartSums): void {
  for (const account of ACCOUNTS) {
    const bookedNs = request.ledger[account];
    if (bookedNs > 0) sums.add({ kind: account, name: account, verb: '', parent: '', count: 1, bookedNs });
  }
}

/** Calls of a service are the entries into it: the request itself, and those inside. */
function addServices(one: FoundRequest, sums: PartSums): void {
  const { trace, request } = one;
  const add = (name: string, count: number, bookedNs: number): void =>
    sums.add({ kind: 'service', name, verb: '', parent: '', count, bookedNs });
  const service = (node: number): string => trace.tree.nodes[node].span.resource.service;
  add(serviceOf(one), 1, 0);
  for (const node of request.nodes)
    if (node !== request.node && trace.byNode.has(node)) add(service(node), 1, 0);
  for (const { node, from, to } of request.stretches) add(service(trace.innermost[node]), 0, to - from);
}

/** Sums of like parts. */
class PartSums {
  readonly #byKey = new Map<string, PartTotal>();

  add(part: PartTotal): void {
    const key = `${part.parent}\n${part.kind}\n${part.name}`;
    const known = this.#byKey.get(key);
    if (!known) {
      this.#byKey.set(key, { ...part });
      return;
    }
    known.count += part.count;
    known.bookedNs += part.bookedNs;
  }

  list(): PartTotal[] {
    return [...this.#byKey.values()];
  }
}
