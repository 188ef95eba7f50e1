import { formatCount, formatDuration, formatShare } from '@tromix/core/text/format';
import type { Meanwhile } from '$lib/server/queries/hosts/meanwhile';

/** From where on a counter is worth a word: the limits of the rules about hosts. */
const LIMITS = { cpu: 0.85, disk: 0.7, waits: 0.1, loop: 0.1, pauses: 0.05, waiting: 1 } as const;
type Counter = keyof typeof LIMITS;

const WORDS: Record<Counter, (value: number) => string> = {
  cpu: (value) => `${formatShare(value)} of the cores in use`,
  disk: (value) => `the disk busy for ${formatShare(value)} of the time`,
  waits: (value) => `waited for a core for ${formatShare(value)} of the time`,
  loop: (value) => `its event loop late by up to ${formatDuration(value * 1e9)} (p99)`,
  pauses: (value) => `${formatShare(value)} of the time in collections`,
  waiting: (value) =>
    value < 1
      ? 'nobody waiting for a connection'
      : `up to ${formatCount(Math.round(value))} waiting for a connection`
};
const ORDER = Object.keys(LIMITS) as Counter[];

/** What stands out of what a process and its host told, and what else is known. */
export function meanwhileWords(of: Meanwhile): { stands: string[]; known: string[] } {
  const told = ORDER.filter((counter) => of[counter] !== null);
  const say = (counters: readonly Counter[]): string[] =>
    counters.map((counter) => WORDS[counter](of[counter]!));
  return {
    stands: say(told.filter((counter) => of[counter]! >= LIMITS[counter])),
    known: say(told.filter((counter) => of[counter]! < LIMITS[counter]))
  };
}
