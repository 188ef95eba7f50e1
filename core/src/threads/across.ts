import type { DumpSeries, DumpThread, ThreadMode } from './model';
import { ownDepth } from './places';

/** One thread in one of the dumps. */
export interface Standing {
  thread: number;
  mode: ThreadMode;
  /** Against the dump before: `same` stack to the line, or `moved`; `first` where there is nothing to hold it against. */
  since: 'first' | 'same' | 'moved';
  /** CPU time since the dump before, milliseconds; null where it is not reported. */
  cpuMs: number | null;
  /** Time since the dump before, milliseconds; null where neither tells. */
  betweenMs: number | null;
}

export interface ThreadAcross {
  name: string;
  /** One for each dump; null where the thread is not in it. */
  standings: (Standing | null)[];
  /** The longest run of dumps with the same stack. */
  sameFor: number;
  /** Of that run: CPU moved by at least half of the time; null where the dumps do not tell. */
  computing: boolean | null;
  /** CPU time over all dumps, milliseconds; null where they do not tell. */
  cpuMs: number | null;
}

/** CPU time from which a thread between two dumps is said to compute, as a part of the time between them. */
export const COMPUTING_SHARE = 0.5;

/**
 * Threads held against themselves over the dumps of one process: matched by their id and name, and by the name alone
 * where a dump has no ids. The stack is the same where every frame is, to the line.
 */
export function across({ dumps }: Pick<DumpSeries, 'dumps'>): ThreadAcross[] {
  const byKey = new Map<string, (Standing | null)[]>();
  const names = new Map<string, string>();
  dumps.forEach((dump, at) => {
    const seen = new Map<string, number>();
    dump.threads.forEach((thread, i) => {
      const plain = `${thread.id} ${thread.name}`;
      // A thread that stands twice in one dump is held against its namesake of the same place.
      const times = seen.get(plain) ?? 0;
      seen.set(plain, times + 1);
      const key = times === 0 ? plain : `${plain} ${times}`;
      let standings = byKey.get(key);
      if (!standings) {
        byKey.set(key, (standings = dumps.map(() => null)));
        names.set(key, thread.name);
      }
      const earlier = lastBefore(standings, at);
      const before = earlier < 0 ? null : dumps[earlier].threads[standings[earlier]!.thread];
      standings[at] = {
        thread: i,
        mode: thread.mode,
        since: !before ? 'first' : sameStack(before, thread) ? 'same' : 'moved',
        cpuMs: before && thread.cpuMs !== null && before.cpuMs !== null ? thread.cpuMs - before.cpuMs : null,
        betweenMs: before ? between(dumps[earlier].capturedAt, before, dump.capturedAt, thread) : null
      };
    });
  });
  return [...byKey].map(([key, standings]) => ({
    name: names.get(key)!,
    standings,
    ...longestRun(standings)
  }));
}

function lastBefore(standings: readonly (Standing | null)[], at: number): number {
  for (let i = at - 1; i >= 0; i--) if (standings[i]) return i;
  return -1;
}

function sameStack(a: DumpThread, b: DumpThread): boolean {
  if (a.frames.length !== b.frames.length || a.frames.length === 0) return false;
  for (let i = 0; i < a.frames.length; i++) if (a.frames[i] !== b.frames[i]) return false;
  return true;
}

/** The threads' own clocks are finer than the dumps' times of day. */
function between(earlierAt: string, earlier: DumpThread, laterAt: string, later: DumpThread): number | null {
  if (earlier.elapsedMs !== null && later.elapsedMs !== null && later.elapsedMs > earlier.elapsedMs)
    return later.elapsedMs - earlier.elapsedMs;
  const ms = Date.parse(laterAt) - Date.parse(earlierAt);
  return Number.isFinite(ms) && ms > 0 ? ms : null;
}

function longestRun(
  standings: readonly (Standing | null)[]
): Pick<ThreadAcross, 'sameFor' | 'computing' | 'cpuMs'> {
  let best = { length: 0, cpuMs: null as number | null, betweenMs: 0 };
  let run = { length: 0, cpuMs: 0 as number | null, betweenMs: 0 };
  let cpuMs: number | null = null;
  for (const standing of standings) {
    if (standing?.cpuMs !== null && standing !== null) cpuMs = (cpuMs ?? 0) + standing.cpuMs;
    if (!standing) run = { length: 0, cpuMs: 0, betweenMs: 0 };
    // Away in the dump before: what it used meanwhile is no part of standing still.
    else if (standing.since !== 'same' || run.length === 0) run = { length: 1, cpuMs: 0, betweenMs: 0 };
    else {
      const known = run.cpuMs !== null && standing.cpuMs !== null && standing.betweenMs !== null;
      run = {
        length: run.length + 1,
        cpuMs: known ? run.cpuMs! + standing.cpuMs! : null,
        betweenMs: run.betweenMs + (standing.betweenMs ?? 0)
      };
    }
    if (run.length > best.length) best = { ...run };
  }
  const isKnown = best.length > 1 && best.cpuMs !== null && best.betweenMs > 0;
  return {
    sameFor: best.length,
    computing: isKnown ? best.cpuMs! >= COMPUTING_SHARE * best.betweenMs : null,
    cpuMs
  };
}

/** A thread that stands in the program's own code and did not move. */
export interface StuckThread extends ThreadAcross {
  /** Its last standing in the dumps. */
  dump: number;
  thread: number;
}

/** Threads with the same stack in at least two dumps in a row, outside the runtime's own code: idle pool threads do not count. */
export function stuckThreads(
  series: DumpSeries,
  found: readonly ThreadAcross[] = across(series)
): StuckThread[] {
  return found
    .flatMap((one) => {
      if (one.sameFor < 2) return [];
      const dump = one.standings.findLastIndex((standing) => standing?.since === 'same');
      const { thread } = one.standings[dump]!;
      const standing = series.dumps[dump].threads[thread];
      return ownDepth(series.frames, standing) < 0 ? [] : [{ ...one, dump, thread }];
    })
    .sort((a, b) => b.sameFor - a.sameFor);
}
