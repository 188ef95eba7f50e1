import type { CallIdentity } from '../calls/call';

/** What a statement's fingerprint shows of it: what it is for, beyond reading or writing rows. */

/** Statements that set up a session or mark a transaction: a round trip each, but not what a loop is about. */
const SESSION_VERBS = new Set([
  'begin',
  'start',
  'commit',
  'rollback',
  'savepoint',
  'release',
  'abort',
  'end',
  'set',
  'reset',
  'show',
  'use',
  'pragma',
  'discard',
  'deallocate',
  'prepare',
  'listen',
  'unlisten',
  'lock',
  'unlock',
  'ping',
  'auth',
  'hello',
  'client',
  'multi',
  'exec',
  'watch',
  'unwatch'
]);
/** Verbs that change data. */
const WRITES = new Set([
  'insert',
  'update',
  'delete',
  'merge',
  'replace',
  'upsert',
  'insertone',
  'insertmany',
  'updateone',
  'updatemany',
  'replaceone',
  'deleteone',
  'deletemany',
  'findandmodify',
  'bulkwrite'
]);
const WRITE_IN_WITH = /\b(?:insert into|update|delete from|merge into)\b/i;
/** Functions that answer otherwise each time (SQL:2016 sequences; the manuals of PostgreSQL, MySQL, SQL Server; from memory). */
const CHANGING =
  /\b(?:nextval|currval|lastval|next value for|last_insert_id|last_insert_rowid|scope_identity|random|rand|uuid|newid|gen_random_uuid|clock_timestamp|pg_sleep|sleep|pg_try_advisory_\w+|found_rows|row_count)\b|@@identity|@@rowcount/i;
/** Reads that lock what they read, and functions that wait for a lock (the same manuals). */
const LOCKING =
  /\bfor (?:no key )?update\b|\bfor (?:key )?share\b|\block in share mode\b|\bwith \((?:updlock|xlock|holdlock)|\b(?:get_lock|pg_advisory_(?:xact_)?lock\w*|sp_getapplock)\b|^lock tables?\b/i;
const BOUND = /\blimit \?|\bfetch (?:first|next) \?|\btop \(?\?/i;
const ORDERED = /\border by\b/i;
const OFFSET = /\boffset \?|\blimit \?, \?/i;
const RANGE = /(?:[<>]=?) \?|\) [<>] \(/;
const EQUALS = /(?<![<>!])= \?/;
const LIST = /\bin \(\??\)|\bin \(\(|\b(?:= )?any ?\(\?|\bunnest ?\(\?|"\$in"/i;

type Shape = Pick<CallIdentity, 'verb' | 'fingerprint'>;

export const isSessionStatement = ({ verb }: Shape): boolean => SESSION_VERBS.has(verb.toLowerCase());

/** True for a statement that changes data. */
export const isWrite = ({ verb, fingerprint }: Shape): boolean =>
  WRITES.has(verb.toLowerCase()) || (verb === 'with' && WRITE_IN_WITH.test(fingerprint));

/** True for a read that may answer otherwise each time, though nothing was written in between. */
export const answersAnew = ({ fingerprint }: Shape): boolean => CHANGING.test(fingerprint);

/** True for a statement that waits while somebody else holds what it locks. */
export const isLocking = ({ fingerprint }: Shape): boolean => LOCKING.test(fingerprint);

/**
 * True for a statement that reads one page after another: by OFFSET in an order, or from the key on at which the last page ended. One page by
 * its own condition (`= ?` without an order) is how object mappers ask for one row.
 */
export function isPaged({ fingerprint }: Shape): boolean {
  if (OFFSET.test(fingerprint)) return ORDERED.test(fingerprint) || !EQUALS.test(fingerprint);
  return BOUND.test(fingerprint) && ORDERED.test(fingerprint) && RANGE.test(fingerprint);
}

/** True for a statement that asks for a list of keys at once. */
export const asksForList = ({ fingerprint }: Shape): boolean => LIST.test(fingerprint);

/** Tables a statement names; empty where it names none. */
export function tablesOf({ fingerprint }: Shape): Set<string> {
  const tables = new Set<string>();
  for (const [, name] of fingerprint.matchAll(TABLE)) tables.add(name.replace(/["`[\]]/g, '').toLowerCase());
  return tables;
}
const TABLE = /\b(?:from|join|into|update|table) (?:only )?((?:["`[]?[\w$]+["`\]]?\.)*["`[]?[\w$]+["`\]]?)/gi;
