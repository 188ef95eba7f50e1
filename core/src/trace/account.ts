import { connectionStep } from '../calls/connection';
import { isCacheSystem } from '../calls/identity';
import { isEntry } from './endpoint';
import { SpanKind, textOf, type Span } from './span';

/** The kinds of time in a ledger, in the order they are shown. */
export const ACCOUNTS = [
  'ownCode',
  'database',
  'cache',
  'remote',
  'messaging',
  'file',
  'lock',
  'pause',
  'queue',
  'unseen'
] as const;
export type Account = (typeof ACCOUNTS)[number];

/** How accounts are named. */
export const ACCOUNT_NAMES: Record<Account, string> = {
  ownCode: 'Own code',
  database: 'Database',
  cache: 'Cache',
  remote: 'Remote call',
  messaging: 'Messaging',
  file: 'File',
  lock: 'Lock',
  pause: 'Pause',
  queue: 'Queue',
  unseen: 'Unseen'
};
export type Ledger = Record<Account, number>;

export function emptyLedger(): Ledger {
  return {
    ownCode: 0,
    database: 0,
    cache: 0,
    remote: 0,
    messaging: 0,
    file: 0,
    lock: 0,
    pause: 0,
    queue: 0,
    unseen: 0
  };
}

const LOCK_NAME = /^(?:lock|wait for (?:the )?lock|acquire lock|mutex)\b/i;
const QUEUE_NAME = /^(?:queue|wait in queue|queued)\b/i;
const FILE_NAME = /^(?:fs|file)[. ](?:read|write|open|append|stat|sync|copy|unlink)/i;

/**
 * The account a span's own stretches are booked to. `docs/formats.md` lists the names and attributes.
 * A span no rule knows is own code.
 */
export function accountOf(span: Span): Account {
  const a = span.attributes;
  if (a.has('lock.name') || LOCK_NAME.test(span.name)) return 'lock';
  if (a.has('queue.name') || QUEUE_NAME.test(span.name)) return 'queue';
  if (isEntry(span)) return 'ownCode';
  const step = connectionStep(span);
  if (step !== null) return step === 'wait' ? 'queue' : 'remote';
  const system = textOf(a, 'db.system.name', 'db.system');
  if (system) return isCacheSystem(system) ? 'cache' : 'database';
  if (a.has('messaging.system') || span.kind === SpanKind.PRODUCER) return 'messaging';
  if (span.kind === SpanKind.CLIENT) return 'remote';
  if (a.has('file.path') || a.has('file.name') || a.has('file.directory') || FILE_NAME.test(span.name))
    return 'file';
  return 'ownCode';
}
