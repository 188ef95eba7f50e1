import { requestParts } from '../calls/parts';
import { findBelow } from '../findings/request-findings';
import { serviceOf, startUsOf, type FoundRequest } from '../inspect/accounted-batches';
import { ACCOUNTS } from '../trace/account';
import { labelOf } from '../trace/align';
import { partKey, type PartTotal, type SideTotals } from './difference-ledger';
import type { FoundIn } from './finding-changes';
import { figuresOf, type Statistic } from './how-sure';

/** By what the time of a request is told apart. */
export const LEDGERS = ['part', 'account', 'service'] as const;
export type LedgerBy = (typeof LEDGERS)[number];

/** One side of a comparison: requests of one endpoint, or of one scope. */
export interface ComparedSide {
  /** Durations in order of time, nanoseconds; none where only sums of the requests are kept. */
  durationsNs: Float64Array;
  /** Median and p95, nanoseconds; NaN without requests. */
  figures: Record<Statistic, number>;
  /** Whether every request is kept that is counted here, or only their sums, whose figures are right to 1 %. */
  kept: 'requests' | 'sums';
  /** Requests it would have, had not only the newest of very many been read. */
  inScope: number;
  /** Calls a request, with everything below it: of each request in order of time where requests are kept. */
  calls: Float64Array;
  /** When the first began and the last one, epoch microseconds; NaN without requests. */
  fromUs: number;
  toUs: number;
  failed: number;
  /** Each of them adds up to the durations. By service null where that is not worked out. */
  totals: Record<Exclude<LedgerBy, 'service'>, SideTotals> & { service: SideTotals | null };
  findings: FoundIn[];
}

/** Takes requests together as one side. */
export function sideOf(
  requests: readonly FoundRequest[]
): ComparedSide & { totals: Record<LedgerBy, SideTotals> } {
  const ordered = requests.toSorted((a, b) => startUsOf(a) - startUsOf(b));
  const durationsNs = Float64Array.from(ordered, ({ request }) => request.durationNs);
  const totalNs = durationsNs.reduce((sum, took) => sum + took, 0);
  const sums = { part: new PartSums(), account: new PartSums(), service: new PartSums() };
  const findings = new Map<string, FoundIn>();
  for (const one of ordered) {
    sums.part.add(partsOf(one));
    sums.account.add(accountsOf(one));
    sums.service.add(servicesOf(one));
    addFindings(one, findings);
  }
  const totals = (parts: PartTotal[]): SideTotals => ({ requests: ordered.length, totalNs, parts });
  return {
    durationsNs,
    figures: figuresOf(durationsNs),
    kept: 'requests',
    inScope: ordered.length,
    calls: Float64Array.from(ordered, ({ request }) => request.callCount),
    fromUs: ordered.length > 0 ? startUsOf(ordered[0]) : NaN,
    toUs: ordered.length > 0 ? startUsOf(ordered[ordered.length - 1]) : NaN,
    failed: ordered.filter(({ request }) => request.failed).length,
    totals: {
      part: totals(sums.part.list()),
      account: totals(sums.account.list().filter(({ bookedNs }) => bookedNs > 0)),
      service: totals(sums.service.list())
    },
    findings: [...findings.values()]
  };
}

/** What one request spends in a part. */
export type Spent = Omit<PartTotal, 'squares'>;

function partsOf({ trace, request }: FoundRequest): Spent[] {
  const { parent: above } = trace.tree;
  return requestParts(trace, request).map(({ kind, name, verb, count, bookedNs, nodes }) => {
    const [first] = nodes;
    const parent = first === request.node || above[first] < 0 ? '' : labelOf(trace.tree, above[first]);
    return { kind, name, verb, parent, count, bookedNs };
  });
}

/** Accounts have no calls: every request has one of each, so that a difference is all by how long. */
const accountsOf = ({ request: { ledger } }: FoundRequest): Spent[] =>
  ACCOUNTS.map((account) => ({
    kind: account,
    name: account,
    verb: '',
    parent: '',
    count: 1,
    bookedNs: ledger[account]
  }));

/** Calls of a service are the entries into it: the request itself, and those inside. */
function servicesOf(one: FoundRequest): Spent[] {
  const { trace, request } = one;
  const byService = new Map<string, Spent>();
  const add = (name: string, count: number, bookedNs: number): void => {
    const spent = byService.get(name) ?? {
      kind: 'service',
      name,
      verb: '',
      parent: '',
      count: 0,
      bookedNs: 0
    };
    spent.count += count;
    spent.bookedNs += bookedNs;
    byService.set(name, spent);
  };
  const service = (node: number): string => trace.tree.nodes[node].span.resource.service;
  add(serviceOf(one), 1, 0);
  for (const node of request.nodes)
    if (node !== request.node && trace.byNode.has(node)) add(service(node), 1, 0);
  for (const { node, from, to } of request.stretches) add(service(trace.innermost[node]), 0, to - from);
  return [...byService.values()];
}

/** A finding counts once for a request, however often it is reached in it. */
function addFindings({ trace, request }: FoundRequest, findings: Map<string, FoundIn>): void {
  const found = new Map(findBelow(trace, request).map((one) => [`${one.rule}\n${one.subject}`, one]));
  for (const [key, { rule, subject }] of found) {
    const known = findings.get(key);
    if (known) known.requests++;
    else findings.set(key, { rule, subject, requests: 1 });
  }
}

/** Sums of like parts. */
export class PartSums {
  readonly #byKey = new Map<string, PartTotal>();

  /** @param spent of one request, each part once. */
  add(spent: readonly Spent[]): void {
    for (const part of spent) {
      const key = partKey(part);
      const squares = part.bookedNs ** 2;
      const known = this.#byKey.get(key);
      if (!known) {
        this.#byKey.set(key, { ...part, squares });
        continue;
      }
      known.count += part.count;
      known.bookedNs += part.bookedNs;
      known.squares += squares;
      if (known.parent !== part.parent) known.parent = '';
    }
  }

  list(): PartTotal[] {
    return [...this.#byKey.values()];
  }
}
