/** Why something that was sent was turned away, and how often. Times in epoch milliseconds. */
export interface TurnedAway {
  reason: string;
  /** HTTP status of the answer; 0 for gRPC, which has none of its own. */
  status: number;
  count: number;
  firstMs: number;
  lastMs: number;
}

/** More reasons are not told apart: the one that was longest ago goes. */
const MAX_REASONS = 50;
/** Sizes, places and the like: two refusals that differ in them alone are one. */
const NUMBERS = /\d{3,}/g;

const byReason = new Map<string, TurnedAway>();

/** Notes that something was turned away, in the words the sender was given. */
export function noteTurnedAway(status: number, reason: string, count = 1, nowMs = Date.now()): void {
  const key = `${status} ${reason.replace(NUMBERS, '#')}`;
  const known = byReason.get(key);
  byReason.delete(key);
  byReason.set(key, {
    reason,
    status,
    count: (known?.count ?? 0) + count,
    firstMs: known?.firstMs ?? nowMs,
    lastMs: nowMs
  });
  for (const oldest of byReason.keys()) {
    if (byReason.size <= MAX_REASONS) break;
    byReason.delete(oldest);
  }
}

/** Notes parts of something that was taken otherwise. */
export function noteRejected(rejected: readonly { reason: string; count: number }[]): void {
  for (const { reason, count } of rejected) noteTurnedAway(200, reason, count);
}

/** What was turned away since this server started, the last first. */
export const turnedAway = (): TurnedAway[] => [...byReason.values()].reverse();

/** The server around the application answers gRPC itself, and says so by this event of the process. */
export const GRPC_EVENT = 'tromix:grpc';
process.on(GRPC_EVENT, (words: unknown) => noteTurnedAway(0, String(words)));
