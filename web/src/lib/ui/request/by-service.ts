import { ACCOUNTS, emptyLedger, type Ledger } from '@tromix/core/trace/account';
import type { RequestModel } from './request-model';

/** What one service did in a request. */
export interface ServiceRow {
  service: string;
  hosts: string;
  spans: number;
  requests: number;
  bookedNs: number;
  /** Its part of the ledger. */
  ledger: Ledger;
}

/** The ledger of a request by the service each stretch belongs to, most first. The parts add up to the request. */
export function byService(model: RequestModel): ServiceRow[] {
  const { trace, request, nodes } = model;
  const rows = new Map<string, ServiceRow & { names: Set<string> }>();
  const rowOf = (node: number): ServiceRow & { names: Set<string> } => {
    const { service } = trace.tree.nodes[node].span.resource;
    let row = rows.get(service);
    if (!row) {
      row = {
        service,
        hosts: '',
        spans: 0,
        requests: 0,
        bookedNs: 0,
        ledger: emptyLedger(),
        names: new Set()
      };
      rows.set(service, row);
    }
    return row;
  };
  for (const node of nodes) {
    const row = rowOf(node);
    row.spans++;
    row.names.add(trace.tree.nodes[node].span.resource.host);
    if (trace.byNode.has(node)) row.requests++;
  }
  for (const { node, from, to, account } of request.stretches) {
    const row = rowOf(node);
    row.bookedNs += to - from;
    row.ledger[account] += to - from;
  }
  return [...rows.values()]
    .map(({ names, ...row }) => ({ ...row, hosts: [...names].join(', ') }))
    .sort((a, b) => b.bookedNs - a.bookedNs);
}

/** The accounts of a part of a ledger, most first. */
export const accountsOf = (ledger: Ledger): (typeof ACCOUNTS)[number][] =>
  ACCOUNTS.filter((account) => ledger[account] > 0).toSorted((a, b) => ledger[b] - ledger[a]);
