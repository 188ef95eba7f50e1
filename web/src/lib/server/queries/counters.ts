import * as read from '../counters/read-series';
import { reader } from '../db/reader';

// What `counters/read-series.ts` reads, through the connection of pages.

export type { CounterSource, MsWindow, SeriesFilter, StoredSeries } from '../counters/read-series';

export const seriesOf = async (filter: read.SeriesFilter): Promise<read.StoredSeries[]> =>
  read.seriesOf(await reader(), filter);

type InBins<Read extends (...all: never[]) => unknown> =
  Parameters<Read> extends [unknown, ...infer Rest] ? (...rest: Rest) => ReturnType<Read> : never;

export const binsOf: InBins<typeof read.binsOf> = async (...of) => read.binsOf(await reader(), ...of);
export const ratesIn: InBins<typeof read.ratesIn> = async (...of) => read.ratesIn(await reader(), ...of);
export const distributionsIn: InBins<typeof read.distributionsIn> = async (...of) =>
  read.distributionsIn(await reader(), ...of);
