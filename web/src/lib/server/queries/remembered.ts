import type { BinRange } from './bins';

/**
 * What was summed up over bins of the past, remembered until something is booked in them: a long window is nearly all past, and
 * each look at it would read it anew. It is lost with the process, which costs nothing but time.
 */
interface Kept {
  answer: Promise<unknown>;
  /** Minute at which its bins end. */
  endMinute: number;
  /** Rows it holds. */
  rows: number;
}

/** Oldest use first. */
const kept = new Map<string, Kept>();

/** Rows kept at most: a row is a few kilobytes of sketch. */
export const MAX_ROWS = 8000;
/** Answers kept at most, also those of few rows. */
export const MAX_ANSWERS = 200;

/**
 * Rows of some runs of bins, the longest of which is remembered. One group may come once of each part.
 * @param question all that the answer depends on but the runs.
 */
export async function readRanges<T>(
  question: unknown,
  ranges: readonly BinRange[],
  ask: (ranges: readonly BinRange[]) => Promise<readonly T[]>
): Promise<T[]> {
  if (ranges.length === 0) return [];
  const minutes = ({ step, from, to }: BinRange): number => (to - from) * step;
  const past = ranges.reduce((best, one) => (minutes(one) > minutes(best) ? one : best));
  const rest = ranges.filter((one) => one !== past);
  const parts = await Promise.all([
    remembered([question, past], past.to * past.step, () => ask([past])),
    rest.length > 0 ? ask(rest) : []
  ]);
  return parts.flat();
}

/** Bins of one step, the last of them apart: it is being filled where the window reaches to now. */
export const lastApart = ({ step, from, to }: BinRange): BinRange[] =>
  to - from < 2
    ? [{ step, from, to }]
    : [
        { step, from, to: to - 1 },
        { step, from: to - 1, to }
      ];

/**
 * The answer to a question about bins of time: the one remembered, or a new one.
 * @param question all that the answer depends on.
 */
function remembered<T>(
  question: readonly unknown[],
  endMinute: number,
  work: () => Promise<readonly T[]>
): Promise<readonly T[]> {
  const key = JSON.stringify(question);
  const known = kept.get(key);
  if (known) {
    kept.delete(key);
    kept.set(key, known);
    return known.answer as Promise<readonly T[]>;
  }
  const answer = work();
  const entry: Kept = { answer, endMinute, rows: 0 };
  kept.set(key, entry);
  answer.then(
    (rows) => {
      entry.rows = rows.length;
      shrink();
    },
    () => kept.get(key) === entry && kept.delete(key)
  );
  return answer;
}

/** Something was booked that began at this minute or later: what holds such bins is asked anew. */
export function forgetSince(minute: number): void {
  for (const [key, { endMinute }] of kept) if (endMinute > minute) kept.delete(key);
}

function shrink(): void {
  let rows = 0;
  for (const entry of kept.values()) rows += entry.rows;
  for (const [key, entry] of kept) {
    if (rows <= MAX_ROWS && kept.size <= MAX_ANSWERS) return;
    kept.delete(key);
    rows -= entry.rows;
  }
}
