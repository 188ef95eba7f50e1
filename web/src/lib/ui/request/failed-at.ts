import { failuresIn } from '@tromix/core/failures/trace-failures';
import { failureTitle } from '@tromix/core/failures/identity';
import type { Account } from '@tromix/core/trace/account';
import { labelOf, type RequestModel } from './request-model';

/** Where a request failed: as far as it is told, where the failure starts that it failed of. */
export interface FailedAt {
  /** The account that span's own time belongs to. */
  account: Account;
  what: string;
  span: string;
  service: string;
  spanId: string;
}

/** null for a request that did not fail, or of which nothing below tells why. */
export function failedAt({ trace: { tree }, request, nodes }: RequestModel): FailedAt | null {
  if (!request.failed) return null;
  const below = new Set(nodes);
  const failure = failuresIn(tree).find(({ node, passesOn }) => passesOn < 0 && below.has(node));
  if (!failure) return null;
  const { span, account } = tree.nodes[failure.node];
  return {
    account,
    what: failureTitle(failure.identity),
    span: labelOf(span),
    service: span.resource.service,
    spanId: span.spanId
  };
}
