import type { Account } from '@tromix/core/trace/account';

const CALLS: Partial<Record<string, { account: Account; noun: string }>> = {
  database: { account: 'database', noun: 'query' },
  cache: { account: 'cache', noun: 'cache call' },
  http: { account: 'remote', noun: 'remote call' },
  rpc: { account: 'remote', noun: 'remote call' },
  messaging: { account: 'messaging', noun: 'message' },
  file: { account: 'file', noun: 'file call' }
};
const NOUNS: Partial<Record<string, string>> = {
  ownCode: 'own code',
  lock: 'waiting for a lock',
  queue: 'waiting in a queue',
  unseen: 'unexplained time',
  databaseSpan: 'span around database calls',
  cacheSpan: 'span around cache calls',
  messagingSpan: 'span around messages',
  fileSpan: 'span around file calls'
};

/** True for kinds of parts that call something outside the request's own code. */
export const isCallKind = (kind: string): boolean => Object.hasOwn(CALLS, kind);

/** The account whose letter and colour a part carries. */
export const partAccount = (kind: string): Account =>
  CALLS[kind]?.account ?? (kind.replace(/Span$/, '') as Account);

export const partNoun = (kind: string): string => CALLS[kind]?.noun ?? NOUNS[kind] ?? kind;

/** Names of the kinds of calls as they are chosen from. */
export const CALL_KINDS: Record<string, string> = {
  database: 'SQL',
  http: 'outgoing requests',
  cache: 'cache',
  file: 'files',
  rpc: 'RPC',
  messaging: 'messaging'
};
