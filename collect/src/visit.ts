import { randomHex } from './hex';

/** A visit of one person: what a tab loads one after the other, without a long pause. */
export interface Visit {
  id: string;
  /** Whether it is one of the share that is told. */
  isTold: boolean;
}

const KEY = 'tromix-visit';
/** After so long a pause a new visit begins (common practice). */
const PAUSE_MS = 30 * 60_000;

interface Kept extends Visit {
  atMs: number;
}

/** The visit that goes on, or a new one. Without storage each load is a visit of its own. */
export function currentVisit(share: number, nowMs = Date.now()): Visit {
  const known = kept();
  const visit: Visit =
    known && nowMs - known.atMs < PAUSE_MS
      ? { id: known.id, isTold: known.isTold }
      : { id: randomHex(8), isTold: Math.random() < share };
  try {
    sessionStorage.setItem(KEY, JSON.stringify({ ...visit, atMs: nowMs }));
  } catch {
    // It may be switched off.
  }
  return visit;
}

function kept(): Kept | null {
  try {
    const value = JSON.parse(sessionStorage.getItem(KEY) ?? 'null') as Kept | null;
    return value && typeof value.id === 'string' && typeof value.atMs === 'number' ? value : null;
  } catch {
    return null;
  }
}
