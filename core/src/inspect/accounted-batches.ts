import { maskSpan, type MaskOptions } from '../calls/mask';
import { Warnings, type Warning } from '../formats/evidence-error';
import type { TraceBatch } from '../formats/otlp/traces';
import { isEntry } from '../trace/endpoint';
import { accountTrace, type RequestAccount, type TraceAccount } from '../trace/requests';
import type { Span } from '../trace/span';
import { buildTree } from '../trace/tree';

/** A request, and the trace it is in. */
export interface FoundRequest {
  trace: TraceAccount;
  request: RequestAccount;
}

/** Trace batches taken as one system, accounted for. */
export interface AccountedBatches {
  spans: number;
  traces: number;
  rejected: { reason: string; count: number }[];
  warnings: Warning[];
  requests: FoundRequest[];
  /** Root spans that serve nobody. */
  background: FoundRequest[];
}

const NOTHING_KEPT: MaskOptions = { hashKey: 0, keepLiteralsOf: new Set() };

/** Accounts for every request of some batches: spans of one trace belong together, whichever batch they came in. */
export function accountBatches(batches: readonly TraceBatch[]): AccountedBatches {
  const warnings = new Warnings();
  const rejected = new Map<string, number>();
  const byTrace = new Map<string, Span[]>();
  let spans = 0;
  for (const batch of batches) {
    for (const { code, message, count } of batch.warnings) warnings.add(code, message, count);
    for (const { reason, count } of batch.rejected) rejected.set(reason, (rejected.get(reason) ?? 0) + count);
    for (const raw of batch.spans) {
      spans++;
      const known = byTrace.get(raw.traceId);
      if (known) known.push(maskSpan(raw, NOTHING_KEPT));
      else byTrace.set(raw.traceId, [maskSpan(raw, NOTHING_KEPT)]);
    }
  }
  const accounts: FoundRequest[] = [];
  for (const list of byTrace.values()) {
    const trace = accountTrace(buildTree(list));
    for (const { code, message, count } of trace.tree.warnings) warnings.add(code, message, count);
    for (const request of trace.requests) accounts.push({ trace, request });
  }
  const serving = new Set(
    accounts.filter(({ trace, request }) => isEntry(trace.tree.nodes[request.node].span)).map(serviceOf)
  );
  // Of a service that sends no entry spans its root spans with calls are the only account of what it does for somebody.
  const isBackground = (one: FoundRequest): boolean =>
    one.request.kind === 'background' || (one.request.kind === 'work' && serving.has(serviceOf(one)));
  const requests = accounts.filter((one) => !isBackground(one));
  if (requests.some(({ request }) => request.kind === 'work'))
    warnings.add(
      'no-entry-spans',
      'A service sends no entry spans (kind SERVER or CONSUMER); its root spans with calls are taken for requests.'
    );
  return {
    spans,
    traces: byTrace.size,
    rejected: [...rejected].map(([reason, count]) => ({ reason, count })),
    warnings: warnings.list(),
    requests,
    background: accounts.filter(isBackground)
  };
}

export const serviceOf = ({ trace, request }: FoundRequest): string =>
  trace.tree.nodes[request.node].span.resource.service;

/** When a request began, epoch microseconds with fractions. */
export const startUsOf = ({ trace: { tree }, request }: FoundRequest): number =>
  tree.baseUs + tree.start[request.node] / 1000;
