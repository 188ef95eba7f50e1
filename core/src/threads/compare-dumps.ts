import { eachSide, type Side, type Sides } from '../sides';
import { THREAD_MODES, type DumpSeries, type ThreadMode } from './model';
import { placeOf } from './places';
import { poolsOf } from './pools';

/** One dump of a series. */
export interface OneDump {
  series: DumpSeries;
  /** Its place among those of the series. */
  dump: number;
}

/** Threads of one name pattern in two dumps. */
export interface ComparedPool {
  pattern: string;
  threads: Sides<number>;
  modes: Record<ThreadMode, Sides<number>>;
  busy: Sides<number>;
}

/** Threads that stand at one place of the program's own code, in one mode. */
export interface ComparedPlace {
  mode: ThreadMode;
  /** Function; the topmost of the program's own code, else the topmost at all; '' without a stack. */
  name: string;
  file: string;
  threads: Sides<number>;
}

export interface ComparedDumps {
  threads: Sides<number>;
  /** What changed most first. */
  pools: ComparedPool[];
  places: ComparedPlace[];
}

const NONE = (): Sides<number> => ({ before: 0, after: 0 });

/**
 * Two dumps of any two processes: their pools by name pattern, and where their threads stand. Lines move between versions, so a place is a function of a file.
 * Threads of the runtime itself are left out.
 */
export function compareDumps(dumps: Sides<OneDump>): ComparedDumps {
  const pools = new Map<string, ComparedPool>();
  const places = new Map<string, ComparedPlace>();
  eachSide(dumps, ({ series, dump }, side) => {
    const { frames } = series;
    const { threads } = series.dumps[dump];
    for (const pool of poolsOf(frames, series.dumps[dump])) {
      const known = entry(pools, pool.pattern, () => ({
        pattern: pool.pattern,
        threads: NONE(),
        modes: Object.fromEntries(THREAD_MODES.map((mode) => [mode, NONE()])) as ComparedPool['modes'],
        busy: NONE()
      }));
      known.threads[side] += pool.threads.length;
      known.busy[side] += pool.busy;
      for (const mode of THREAD_MODES) known.modes[mode][side] += pool.modes[mode];
    }
    for (const thread of threads) {
      if (thread.system) continue;
      const { name = '', file = '' } = placeOf(frames, thread) ?? {};
      const key = JSON.stringify([thread.mode, name, file]);
      entry(places, key, () => ({ mode: thread.mode, name, file, threads: NONE() })).threads[side]++;
    }
  });
  const all = (side: Side): number =>
    [...pools.values()].reduce((sum, { threads }) => sum + threads[side], 0);
  return {
    threads: { before: all('before'), after: all('after') },
    pools: [...pools.values()].sort(
      (a, b) =>
        changed(b.threads) + changed(b.busy) - changed(a.threads) - changed(a.busy) ||
        a.pattern.localeCompare(b.pattern)
    ),
    places: [...places.values()].sort(
      (a, b) => changed(b.threads) - changed(a.threads) || a.name.localeCompare(b.name)
    )
  };
}

const changed = ({ before, after }: Sides<number>): number => Math.abs(after - before);

function entry<K, V>(map: Map<K, V>, key: K, make: () => V): V {
  const known = map.get(key) ?? make();
  map.set(key, known);
  return known;
}
