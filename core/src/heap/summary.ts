import * as v from 'valibot';
import { Count, summaryFindings, SummaryFindings } from '../evidence/summary-parts';
import { findInHeap } from '../findings/heap-findings';
import type { HeapStore } from './heap-store';

/** What a list of evidence says of a heap dump, once it is indexed. */
export const HeapSummary = v.object({
  objects: Count,
  liveBytes: Count,
  /** Epoch milliseconds; 0 where unknown. */
  capturedAtMs: Count,
  findings: SummaryFindings
});
export type HeapSummary = v.InferOutput<typeof HeapSummary>;

export function summariseHeap(store: HeapStore): HeapSummary {
  const { count, liveBytes, capturedAtMs } = store.meta;
  const findings = summaryFindings(findInHeap({ store, difference: null }));
  return { objects: count, liveBytes, capturedAtMs, findings };
}
