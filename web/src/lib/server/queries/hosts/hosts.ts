import type { Bins } from '@tromix/core/counters/bins';
import { oddStretches, type OddStretch } from '@tromix/core/counters/odd-one';
import {
  COLUMNS,
  lineOf,
  MEASURES,
  STRIP_NAMES,
  type BinnedSeries,
  type Line,
  type MeasureKey,
  type RowKind
} from '@tromix/core/counters/strips';
import { groupBy } from '@tromix/core/group-by';
import { namedHost, type Scope, type TimeWindow } from '$lib/scope';
import { ratesIn, seriesOf, type CounterSource, type MsWindow, type StoredSeries } from '../counters';
import { isNamed, Serving, servingProcesses } from './serving-processes';

/** Bins of a strip at the most. */
const MOST_BINS = 120;
/** Lengths a bin may have, seconds. */
const BIN_SECONDS = [10, 20, 30, 60, 120, 300, 600, 1200, 1800, 3600, 7200, 14_400, 21_600, 43_200, 86_400];
/** Rows that are drawn. */
const MOST_ROWS = 200;

/** A row of strips: a host, a service or a process. */
export interface StripRow {
  key: string;
  name: string;
  /** What else it is: the services of a host, the host of a process. */
  about: string;
  /** What of the scope is this row. */
  narrow: Partial<Pick<Scope, 'host' | 'service'>>;
  lines: Partial<Record<MeasureKey, Line | null>>;
}

/** A stretch in which a row stands clear of the others. */
export interface OddMeasure extends OddStretch {
  measure: MeasureKey;
}

export interface Strips {
  kind: RowKind;
  /** Epoch milliseconds of the first bin, and the length of each. */
  fromMs: number;
  stepMs: number;
  bins: number;
  rows: StripRow[];
  /** Whether there are more rows than are listed. */
  more: boolean;
  odd: OddMeasure[];
}

/** A length of bins that suits a window. */
export function stepFor({ fromMs, toMs }: MsWindow): number {
  const seconds = (toMs - fromMs) / 1000 / MOST_BINS;
  return (BIN_SECONDS.find((length) => length >= seconds) ?? BIN_SECONDS.at(-1)!) * 1000;
}

export const msOf = ({ fromUs, toUs }: TimeWindow): MsWindow => ({
  fromMs: fromUs / 1000,
  toMs: toUs / 1000
});

/** Strips of hosts, services or processes, and which of them is the odd one. */
export async function stripsOf(scope: Scope, window: TimeWindow, kind: RowKind): Promise<Strips> {
  const times = msOf(window);
  const stepMs = stepFor(times);
  const { inScope, serving } = await seriesIn(scope, STRIP_NAMES, times.fromMs);
  const columns: readonly MeasureKey[] = COLUMNS[kind];
  const grouped = [
    ...groupBy(kind === 'hosts' ? inScope : ofProcesses(inScope), (one) => ROWS[kind].keyOf(one, serving))
  ].slice(0, MOST_ROWS + 1);
  const bins = await ratesIn(
    grouped.flatMap(([, of]) => of),
    times,
    stepMs
  );
  const rows = grouped
    .slice(0, MOST_ROWS)
    .map(([key, of]): StripRow => {
      const binned = of.map((one) => binnedSeries(one, bins.get(one.id)));
      return {
        key,
        ...ROWS[kind].wordsOf(
          of.map(({ source }) => source),
          serving
        ),
        lines: Object.fromEntries(columns.map((measure) => [measure, lineOf(measure, binned)]))
      };
    })
    .sort(ORDER[kind]);
  const first = bins.values().next().value;
  return {
    kind,
    fromMs: first?.fromMs ?? Math.floor(times.fromMs / stepMs) * stepMs,
    stepMs,
    bins: first?.weight.length ?? 0,
    rows,
    more: grouped.length > MOST_ROWS,
    odd: columns
      .flatMap((measure) =>
        oddStretches(
          rows.map(({ lines }) => lines[measure] ?? null),
          MEASURES[measure].least
        ).map((stretch) => ({ ...stretch, measure }))
      )
      .sort(byWeight(columns))
  };
}

const byName = (a: StripRow, b: StripRow): number => (a.name < b.name ? -1 : a.name > b.name ? 1 : 0);
const mostCores = ({ lines }: StripRow): number =>
  Math.max(-1, ...(lines.cores ?? []).map((value) => value ?? -1));
/** Hosts and services stand where they always do; of the many processes those that use most come first. */
const ORDER: Record<RowKind, (a: StripRow, b: StripRow) => number> = {
  hosts: byName,
  services: byName,
  processes: (a, b) => mostCores(b) - mostCores(a) || byName(a, b)
};

/** How far a stretch stands clear, and for how long. */
const weightOf = ({ measure, level, others, from, to }: OddMeasure): number =>
  ((level - others[1]) / MEASURES[measure].least) * (to - from);

/** The heaviest stretches first; of those about as heavy the measure whose column comes first: what is scarce, before what follows from it. */
const byWeight =
  (columns: readonly MeasureKey[]) =>
  (a: OddMeasure, b: OddMeasure): number => {
    const [weightA, weightB] = [weightOf(a), weightOf(b)];
    if (Math.max(weightA, weightB) > 2 * Math.min(weightA, weightB)) return weightB - weightA;
    return columns.indexOf(a.measure) - columns.indexOf(b.measure) || weightB - weightA;
  };

const NO_BINS: Bins = {
  fromMs: 0,
  stepMs: 1,
  weight: new Float64Array(),
  sum: new Float64Array(),
  max: new Float64Array()
};
export const binnedSeries = ({ name, attributes }: StoredSeries, bins: Bins | undefined): BinnedSeries => ({
  name,
  attributes,
  bins: bins ?? NO_BINS
});

/** Series of some names under the scope's host and service, with a point since a moment. */
async function seriesIn(
  scope: Scope,
  names: readonly string[],
  sinceMs: number
): Promise<{ inScope: StoredSeries[]; serving: Serving }> {
  const { name, but } = namedHost(scope);
  const [all, served] = await Promise.all([
    seriesOf({ names, sinceMs, hosts: scope.host && !but ? [name] : [] }),
    servingProcesses()
  ]);
  const serving = new Serving(
    served,
    all.map(({ source }) => source)
  );
  const hosts = new Set([
    ...all.filter(({ source }) => source.service === scope.service).map(({ source }) => source.host),
    ...served.filter(({ service }) => service === scope.service).map(({ host }) => host)
  ]);
  const inScope = all.filter(({ source }) => {
    const service = serving.serviceOf(source);
    // What a host says of itself, and what else runs on it, is of every service on it.
    const isOfService =
      !scope.service || service === scope.service || (service === '' && hosts.has(source.host));
    return isOfService && (!scope.host || (source.host === name) !== but);
  });
  return { inScope, serving };
}

/** Those a process says of itself, or its host of it: where both do, its own count. */
export function ofProcesses(series: readonly StoredSeries[]): StoredSeries[] {
  const telling = series.filter(({ source }) => source.pid > 0 || isNamed(source.service));
  return [...groupBy(telling, ({ name, source }) => `${name} ${processKey(source)}`).values()].flatMap(
    (of) => {
      const own = of.filter(({ source }) => isNamed(source.service));
      return own.length > 0 ? own : of;
    }
  );
}

/** A process by its host and number; what has no number by who sends. */
export const processKey = ({ host, pid, id }: CounterSource): string => `${host} ${pid > 0 ? pid : `s${id}`}`;

interface RowWords {
  keyOf: (series: StoredSeries, serving: Serving) => string;
  wordsOf: (
    sources: readonly CounterSource[],
    serving: Serving
  ) => Pick<StripRow, 'name' | 'about' | 'narrow'>;
}

const unique = (list: readonly string[]): string[] => [...new Set(list)].filter(Boolean).sort();

const ROWS: Record<RowKind, RowWords> = {
  hosts: {
    keyOf: (series) => series.source.host,
    wordsOf: (sources, serving) => {
      const [{ host }] = sources;
      const ids = unique(sources.map(({ attributes }) => String(attributes.get('host.id') ?? '')));
      const services = unique([
        ...sources.map(({ service }) => service).filter(isNamed),
        ...serving.served.filter((one) => one.host === host).map(({ service }) => service)
      ]);
      return {
        name: host,
        about: [services.join(', '), ids.length > 1 ? `${ids.length} machines of this name` : '']
          .filter(Boolean)
          .join(' · '),
        narrow: { host }
      };
    }
  },
  services: {
    keyOf: ({ source }, serving) => serving.serviceOf(source),
    wordsOf: (sources, serving) => {
      const service = serving.serviceOf(sources[0]);
      return {
        name: service || 'of no service',
        about: unique(sources.map(({ host }) => host)).join(', '),
        narrow: service ? { service } : {}
      };
    }
  },
  processes: {
    keyOf: ({ source }) => processKey(source),
    wordsOf: (sources, serving) => {
      const [first] = sources;
      const { host, pid } = first;
      const told = (name: string): unknown =>
        sources.map(({ attributes }) => attributes.get(name)).find(Boolean);
      const executable = String(told('process.executable.name') ?? '');
      const service = sources.map((source) => serving.serviceOf(source)).find(Boolean);
      return {
        name: service ?? (executable || 'a process'),
        about: [host, pid > 0 ? `pid ${pid}` : '', service ? executable : ''].filter(Boolean).join(' · '),
        narrow: { host, ...(service !== undefined && { service }) }
      };
    }
  }
};
