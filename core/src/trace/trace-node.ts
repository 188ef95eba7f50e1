import type { CallIdentity } from '../calls/call';
import type { Account } from './account';
import type { Span } from './span';

/** A place in the tree: a span that came, or the stand-in for a parent that never did. */
export interface TraceNode {
  span: Span;
  /** True for the stand-in of a missing parent. */
  missing: boolean;
  /** With regard to the call it lies in, where it lies in one. */
  account: Account;
  /** What the span calls; null also where the call is counted by another span (`nested-calls.ts`). */
  call: CallIdentity | null;
}
