import { meanIn } from '@tromix/core/counters/bins';
import { greatestOf, meanOf } from '@tromix/core/counters/lines';
import { lineOf, STRIP_NAMES, type Line, type MeasureKey } from '@tromix/core/counters/strips';
import { binsOf, seriesOf, type MsWindow } from './counters';
import { binnedSeries } from './hosts';

/** A process that took part in a request. */
export interface TakingPart {
  host: string;
  /** 0 where it is not told. */
  pid: number;
  service: string;
}

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
  const hosts = new Set(processes.map(({ host }) => host));
  const names = [...STRIP_NAMES, WAITS];
  const series = (await seriesOf({ names, sinceMs: window.fromMs })).filter(({ source }) =>
    hosts.has(source.host)
  );
  const bins = await binsOf(series, window, STEP_MS);
  return processes.map((process) => {
    const ofHost = series.filter(({ source }) => source.host === process.host && source.pid === 0);
    const own = series.filter(
      ({ source }) =>
        source.host === process.host &&
        (process.pid > 0 ? source.pid === process.pid : source.service === process.service)
    );
    const line = (measure: MeasureKey, of: typeof series): Line =>
      lineOf(
        measure,
        of.map((one) => binnedSeries(one, bins.get(one.id)))
      ) ?? [];
    const [waits] = own.filter(({ name }) => name === WAITS).map(({ id }) => bins.get(id)!);
    return {
      ...process,
      cpu: meanOf(line('cpu', ofHost)),
      disk: meanOf(line('disk', ofHost)),
      waits: waits ? meanOf([...waits.weight.keys()].map((bin) => meanIn(waits, bin))) : null,
      loop: greatestOf(line('loop', own)),
      pauses: meanOf(line('pauses', own)),
      waiting: greatestOf(line('waiting', own))
    };
  });
}
