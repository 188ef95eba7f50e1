import { THREAD_MODES, type DumpSeries, type DumpThread, type ThreadDump, type WaitKind } from './model';

const WAIT_KINDS: readonly WaitKind[] = ['enter', 're-enter', 'park', 'notify', 'mutex'];
const DAEMON = 1;
const VIRTUAL = 2;
const SYSTEM = 4;

/**
 * The threads of a dump by columns, as they travel between a worker and a page: ten thousand objects are copied many times slower.
 * Null is NaN among milliseconds; a thread that waits for nothing waits for lock −1.
 */
export interface PackedThreads {
  names: string[];
  ids: string[];
  nativeIds: string[];
  /** The states there are, and which each thread is in. */
  states: string[];
  stateOf: Uint16Array;
  modes: Uint8Array;
  flags: Uint8Array;
  cpuMs: Float64Array;
  elapsedMs: Float64Array;
  /** The stacks there are, and which each thread has. */
  stacks: Int32Array[];
  stackOf: Uint32Array;
  /** What thread i holds stands from `heldFrom[i]` to `heldFrom[i + 1]`. */
  heldFrom: Uint32Array;
  heldLocks: Int32Array;
  heldDepths: Int32Array;
  wantedLock: Int32Array;
  wantedDepth: Int32Array;
  wantedHow: Uint8Array;
}

export type PackedSeries = Omit<DumpSeries, 'dumps'> & {
  dumps: (Omit<ThreadDump, 'threads'> & { threads: PackedThreads })[];
};

export const packSeries = (series: DumpSeries): PackedSeries => ({
  ...series,
  dumps: series.dumps.map((dump) => ({ ...dump, threads: packThreads(dump.threads) }))
});

export const unpackSeries = (packed: PackedSeries): DumpSeries => ({
  ...packed,
  dumps: packed.dumps.map((dump) => ({ ...dump, threads: unpackThreads(dump.threads) }))
});

function packThreads(threads: readonly DumpThread[]): PackedThreads {
  const states = new Places<string>();
  const stacks = new Places<Int32Array>();
  const held = threads.flatMap(({ holds }) => holds);
  const heldFrom = new Uint32Array(threads.length + 1);
  threads.forEach(({ holds }, i) => (heldFrom[i + 1] = heldFrom[i] + holds.length));
  return {
    names: threads.map(({ name }) => name),
    ids: threads.map(({ id }) => id),
    nativeIds: threads.map(({ nativeId }) => nativeId),
    stateOf: Uint16Array.from(threads, ({ state }) => states.of(state)),
    states: states.list,
    modes: Uint8Array.from(threads, ({ mode }) => THREAD_MODES.indexOf(mode)),
    flags: Uint8Array.from(
      threads,
      ({ daemon, virtual, system }) => (daemon ? DAEMON : 0) | (virtual ? VIRTUAL : 0) | (system ? SYSTEM : 0)
    ),
    cpuMs: Float64Array.from(threads, ({ cpuMs }) => cpuMs ?? NaN),
    elapsedMs: Float64Array.from(threads, ({ elapsedMs }) => elapsedMs ?? NaN),
    stackOf: Uint32Array.from(threads, ({ frames }) => stacks.of(frames)),
    stacks: stacks.list,
    heldFrom,
    heldLocks: Int32Array.from(held, ({ lock }) => lock),
    heldDepths: Int32Array.from(held, ({ depth }) => depth),
    wantedLock: Int32Array.from(threads, ({ waitsFor }) => waitsFor?.lock ?? -1),
    wantedDepth: Int32Array.from(threads, ({ waitsFor }) => waitsFor?.depth ?? -1),
    wantedHow: Uint8Array.from(threads, ({ waitsFor }) => (waitsFor ? WAIT_KINDS.indexOf(waitsFor.kind) : 0))
  };
}

function unpackThreads(packed: PackedThreads): DumpThread[] {
  const known = (value: number): number | null => (Number.isNaN(value) ? null : value);
  return packed.names.map((name, i) => {
    const flags = packed.flags[i];
    const holds: DumpThread['holds'] = [];
    for (let at = packed.heldFrom[i]; at < packed.heldFrom[i + 1]; at++)
      holds.push({ lock: packed.heldLocks[at], depth: packed.heldDepths[at] });
    return {
      name,
      id: packed.ids[i],
      nativeId: packed.nativeIds[i],
      state: packed.states[packed.stateOf[i]],
      mode: THREAD_MODES[packed.modes[i]],
      daemon: (flags & DAEMON) !== 0,
      virtual: (flags & VIRTUAL) !== 0,
      system: (flags & SYSTEM) !== 0,
      cpuMs: known(packed.cpuMs[i]),
      elapsedMs: known(packed.elapsedMs[i]),
      frames: packed.stacks[packed.stackOf[i]],
      holds,
      waitsFor:
        packed.wantedLock[i] < 0
          ? null
          : {
              lock: packed.wantedLock[i],
              depth: packed.wantedDepth[i],
              kind: WAIT_KINDS[packed.wantedHow[i]]
            }
    };
  });
}

/** The different values met, each with its place. */
class Places<T> {
  readonly list: T[] = [];
  readonly #places = new Map<T, number>();

  of(value: T): number {
    let place = this.#places.get(value);
    if (place === undefined) {
      this.#places.set(value, (place = this.list.length));
      this.list.push(value);
    }
    return place;
  }
}
