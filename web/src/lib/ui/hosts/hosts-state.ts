import type { RowKind } from '@tromix/core/counters/strips';
import { defineParams, oneOf, text } from '$lib/ui/frame/params';

const KINDS = ['hosts', 'services', 'processes'] as const satisfies readonly RowKind[];

/** What is looked at of hosts; it all stands in the URL. */
export const HOST_PARAMS = defineParams({
  rows: oneOf(KINDS, 'hosts', 'rows'),
  /** The host that is shown below; '' for the odd one, else the first. */
  one: text('one'),
  /** The metric whose lines are drawn; '' for none. */
  counter: text('counter')
});
export const ROW_KINDS = KINDS;
