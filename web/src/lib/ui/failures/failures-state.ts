import { FAILURE_KINDS, type FailureKind } from '@tromix/core/failures/failure-kind';
import { defineParams, oneOf } from '$lib/ui/frame/params';

/** What is listed: what is open or came back, or what was marked. */
export const SHOWS = { open: 'open, and back', fixed: 'fixed', ignored: 'ignored', all: 'all' };
export const KIND_NAMES: Record<FailureKind | 'any', string> = { any: 'any', ...FAILURE_KINDS };
export const HANDLED = { any: 'all', reached: 'that reached somebody', caught: 'that were caught' };

const keysOf = <T extends object>(of: T): (keyof T & string)[] => Object.keys(of) as (keyof T & string)[];

/** Which failures are listed; it all stands in the URL. */
export const FAILURES_PARAMS = defineParams({
  show: oneOf(keysOf(SHOWS), 'open', 'state'),
  kind: oneOf(keysOf(KIND_NAMES), 'any', 'kind'),
  handled: oneOf(keysOf(HANDLED), 'any', 'handled')
});
