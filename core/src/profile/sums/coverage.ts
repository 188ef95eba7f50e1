import { groupBy } from '../../group-by';

/** A slice of a recording of one process. Microseconds. */
export interface SliceTime {
  /** Equal for slices of one process. */
  process: string;
  startUs: number;
  /** From its first to its last moment. */
  lengthUs: number;
  /** How much of that was recorded: of sums of an hour, less than an hour. */
  spanUs: number;
}

/** How much of the time a number of slices cover. */
export interface Coverage {
  /** What each counts with, in order: of recordings of one process that overlap each counts in part, so that no moment counts twice. */
  factors: Float64Array;
  /** Time covered, added up over processes, microseconds. */
  coveredUs: number;
  processes: number;
}

/**
 * Tells by how much slices overlap. Those of one process that share moments are scaled to the time they cover together: their samples tell of the same
 * work.
 */
export function coverageOf(slices: readonly SliceTime[]): Coverage {
  const factors = new Float64Array(slices.length).fill(1);
  const byProcess = groupBy(slices.keys(), (i) => slices[i].process);
  let coveredUs = 0;
  for (const of of byProcess.values()) {
    of.sort((a, b) => slices[a].startUs - slices[b].startUs);
    for (let at = 0; at < of.length;) {
      // Slices that meet one another, directly or by others between.
      let [next, end, together] = [at, slices[of[at]].startUs, 0];
      const from = slices[of[at]].startUs;
      while (next < of.length && (next === at || slices[of[next]].startUs < end)) {
        const { startUs, lengthUs, spanUs } = slices[of[next]];
        end = Math.max(end, startUs + lengthUs);
        together += spanUs;
        next++;
      }
      const union = Math.min(together, end - from);
      for (let i = at; i < next; i++) factors[of[i]] = together > 0 ? union / together : 1;
      coveredUs += union;
      at = next;
    }
  }
  return { factors, coveredUs, processes: byProcess.size };
}
