import type { Command } from 'commander';

/** What the command ends with: done; what was run or looked at has failed; called wrongly, or something could not be read. */
export const EXIT = { ok: 0, failed: 1, usage: 2 } as const;

/** How a command ended. */
export class Outcome {
  /** Null while the process goes on (a server). */
  code: number | null = EXIT.ok;
}

/** Adds a command’s arguments and options, and what it does. */
export type Define = (command: Command, outcome: Outcome) => void;
