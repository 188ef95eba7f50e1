import { meanIn } from '@tromix/core/counters/bins';
import { greatestOf, meanOf } from '@tromix/core/counters/lines';
import type { MeasureKey } from '@tromix/core/counters/strips';
import { distributionsIn, type MsWindow, type StoredSeries } from '../counters';
import { meanWait, POOL_WAITS } from './one/pool-waits';
import { toldBy, type TakingPart } from './taking-part';

/** What a host and a process of it told around a time; null for what neither tells. */
export interface Meanwhile extends TakingPart {
  /** Share of all cores in use. */
  cpu: number | null;
  /** Share of the time a disk was busy. */
  disk: number | null;
  /** Seconds a second in which the process waited for a core. */
  waits: number | null;
  /** Delay of its event loop at the 99th percentile, seconds. */
  loop: number | null;
  /** Share of the time in collections of its runtime. */
  pauses: number | null;
  /** Who waited for a connection of its pools. */
  waiting: number | null;
  /** Mean wait of those that took a connection of its pools, seconds. */
  waitedS: number | null;
}

const WAITS = 'tromix.process.core_wait.time';
/** Counters come every ten seconds or so: those around a request are of it, milliseconds. */
const AROUND_MS = 15_000;
const STEP_MS = 5000;

/** What hosts and processes told around a time. */
export async function meanwhileOf(
  processes: readonly TakingPart[],
  { fromMs, toMs }: MsWindow
): Promise<Meanwhile[]> {
  const window = { fromMs: fromMs - AROUND_MS, toMs: toMs + AROUND_MS };
  const toldOf = await toldBy(processes, window, STEP_MS, [WAITS, ...POOL_WAITS]);
  const told = processes.map((process) => ({ process, ...toldOf(process) }));
  const isWait = ({ name }: StoredSeries): boolean => POOL_WAITS.includes(name);
  const waited = await distributionsIn(
    told.flatMap(({ own }) => own.filter(isWait)),
    window,
    STEP_MS
  );
  return told.map(({ process, ofHost, ofProcess, own, binsOf }): Meanwhile => {
    const host = (measure: MeasureKey): number | null => meanOf(ofHost(measure) ?? []);
    const [waits] = own.filter(({ name }) => name === WAITS).map((one) => binsOf(one)!);
    const pools = own.filter(isWait);
    return {
      ...process,
      cpu: host('cpu'),
      disk: host('disk'),
      waits: waits ? meanOf([...waits.weight.keys()].map((bin) => meanIn(waits, bin))) : null,
      loop: greatestOf(ofProcess('loop') ?? []),
      pauses: meanOf(ofProcess('pauses') ?? []),
      waiting: greatestOf(ofProcess('waiting') ?? []),
      waitedS: meanWait(
        pools,
        pools.flatMap(({ id }) => waited.get(id) ?? [])
      )
    };
  });
}
