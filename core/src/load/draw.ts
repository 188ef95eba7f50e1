import type { Draws } from '../stats/draws';

const RANGE = /\{(\d{1,15})\.\.(\d{1,15})\}/g;

/** Whether a text has places that numbers are put into. */
export const hasRange = (text: string): boolean => text.search(RANGE) >= 0;

/**
 * Puts numbers into a text: each `{1..60}` becomes an integer of that range, drawn anew.
 * @example fill('/calls/{1..60}/berth', draws) // '/calls/17/berth'
 */
export function fill(text: string, draws: Draws): string {
  if (!text.includes('..')) return text;
  return text.replace(RANGE, (whole, least: string, most: string) =>
    Number(least) <= Number(most) ? String(draws.between(Number(least), Number(most))) : whole
  );
}

/** Index of one of some weights, each as likely as its weight says. */
export function drawOne(weights: readonly number[], draws: Draws): number {
  let at = draws.share() * weights.reduce((sum, weight) => sum + weight, 0);
  const drawn = weights.findIndex((weight) => (at -= weight) < 0);
  return Math.max(0, drawn);
}
