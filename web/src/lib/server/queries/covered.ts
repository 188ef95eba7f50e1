import type { TimeWindow } from '$lib/scope';
import { select } from '../db/reader';

const MINUTE_US = 60e6;

/**
 * Minutes that counts in a window cover, for rates: from its beginning, or from the minute of the first request there ever was, to its end or now.
 * The same for every part of a scope, so that rates of parts add up, and on every view.
 */
export async function coveredMinutes(window: TimeWindow, nowMs: number): Promise<number> {
  const [{ first }] = await select<{ first: number | null }>('SELECT min(first_us) AS first FROM resources');
  const begin = Math.max(window.fromUs, Math.floor((first ?? 0) / MINUTE_US) * MINUTE_US);
  return Math.max(1, (Math.min(window.toUs, nowMs * 1000) - begin) / MINUTE_US);
}
