import type { ThreadFinding } from '../findings/thread-finding';
import { findInSeries } from '../findings/thread-findings';
import { stuckThreads } from '../threads/across';
import { stackGroups } from '../threads/groups';
import type { DumpSeries, DumpThread, ThreadDump, ThreadFrame } from '../threads/model';
import { placeOf } from '../threads/places';
import { waitsFor, type WaitsFor } from '../threads/waits-for';
import type { Warning } from '../formats/evidence-error';

interface Place {
  function: string;
  file: string;
  line: number;
}

export interface InspectedDump {
  /** As written in the dump; null where it has no time. */
  capturedAt: string | null;
  runtime: string;
  threads: number;
  states: Record<string, number>;
  rootBlockers: {
    thread: string;
    lock: string;
    lockClass: string;
    direct: number;
    transitive: number;
    /** The topmost frame outside the runtime's own packages, and the topmost of all. */
    at: Place | null;
    top: Place | null;
    waiting: string[];
  }[];
  deadlocks: { threads: string[]; locks: string[] }[];
  unknownOwners: { lock: string; lockClass: string; waiting: string[] }[];
  groups: { count: number; state: string; frames: string[]; threads: string[] }[];
}

export interface InspectedThreads {
  dumps: InspectedDump[];
  stuck: { thread: string; dumps: number; computing: boolean | null; frames: string[] }[];
  findings: Omit<ThreadFinding, 'thread'>[];
  warnings: Warning[];
}

/**
 * Everything `tromix inspect` says about thread dumps of one process.
 * @param top most groups listed of each dump; 0 for all.
 */
export function inspectThreads(series: DumpSeries, top: number): InspectedThreads {
  const graphs = series.dumps.map(waitsFor);
  return {
    dumps: series.dumps.map((dump, i) => inspectDump(series.frames, dump, graphs[i], top)),
    stuck: stuckThreads(series).map(({ name, sameFor, computing, dump, thread }) => ({
      thread: name,
      dumps: sameFor,
      computing,
      frames: stackText(series.frames, series.dumps[dump].threads[thread].frames)
    })),
    findings: findInSeries(series).map(({ thread: _, ...finding }) => finding),
    warnings: graphs.flatMap(({ disagreements }) => disagreements)
  };
}

function inspectDump(
  frames: readonly ThreadFrame[],
  dump: ThreadDump,
  waits: WaitsFor,
  top: number
): InspectedDump {
  const { threads, locks } = dump;
  const nameOf = (thread: number): string => threads[thread].name;
  return {
    capturedAt: dump.capturedAt || null,
    runtime: dump.runtime,
    threads: threads.length,
    states: statesOf(threads),
    rootBlockers: waits.rootBlockers.map(({ thread, lock, direct, transitive, waiting }) => ({
      thread: nameOf(thread),
      lock: locks[lock].id,
      lockClass: locks[lock].className,
      direct,
      transitive,
      at: place(placeOf(frames, threads[thread])),
      top: place(frames[threads[thread].frames[0]] ?? null),
      waiting: waiting.map(nameOf)
    })),
    deadlocks: waits.deadlocks.map((cycle) => ({
      threads: cycle.threads.map(nameOf),
      locks: cycle.locks.map((lock) => locks[lock].id)
    })),
    unknownOwners: waits.ownerless.map((i) => {
      const { lock, waiting } = waits.queues[i];
      return { lock: locks[lock].id, lockClass: locks[lock].className, waiting: waiting.map(nameOf) };
    }),
    groups: stackGroups(dump)
      .slice(0, top === 0 ? undefined : top)
      .map(({ state, frames: stack, threads: members }) => ({
        count: members.length,
        state,
        frames: stackText(frames, stack),
        threads: members.map(nameOf)
      }))
  };
}

/** States as the runtime words them; where it does not, what the top frames tell. No state's name can be a key of `Object`'s. */
function statesOf(threads: readonly DumpThread[]): Record<string, number> {
  const counts = new Map<string, number>();
  for (const { state, mode, system } of threads) {
    const name = state || (system ? 'not recorded' : mode);
    counts.set(name, (counts.get(name) ?? 0) + 1);
  }
  return Object.fromEntries(counts);
}

const place = (frame: ThreadFrame | null): Place | null =>
  frame && { function: frame.name, file: frame.file, line: frame.line };

/** `name(file:line)`, innermost first. */
export function stackText(frames: readonly ThreadFrame[], stack: Int32Array): string[] {
  return Array.from(stack, (index) => {
    const { name, file, line } = frames[index];
    return `${name}(${file || 'unknown'}${line > 0 ? `:${line}` : ''})`;
  });
}
