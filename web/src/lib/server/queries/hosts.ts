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
import { select } from '../db/reader';
import { binsOf, seriesOf, type CounterSource, type MsWindow, type StoredSeries } from './counters';

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
  /** Epoch milliseconds of its newest point. */
  lastMs: number;
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

/** Who sends no service name is called so by OpenTelemetry's SDKs. */
const isNamed = (service: string): boolean => service !== '' && !service.startsWith('unknown_service');

/** Strips of hosts, services or processes, and which of them is the odd one. */
export async function stripsOf(scope: Scope, window: TimeWindow, kind: RowKind): Promise<Strips> {
  const times = msOf(window);
  const stepMs = stepFor(times);
  const inScope = await seriesIn(scope, STRIP_NAMES, times.fromMs);
  const columns: readonly MeasureKey[] = COLUMNS[kind];
  const grouped = [...groupBy(kind === 'hosts' ? inScope : ofProcesses(inScope), ROWS[kind].keyOf)].slice(
    0,
    MOST_ROWS + 1
  );
  const bins = await binsOf(
    grouped.flatMap(([, of]) => of),
    times,
    stepMs
  );
  const serving = kind === 'hosts' ? await servicesByHost() : new Map<string, string[]>();
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
        lines: Object.fromEntries(columns.map((measure) => [measure, lineOf(measure, binned)])),
        lastMs: Math.max(...of.map(({ lastMs }) => lastMs))
      };
    })
    .sort((a, b) => (a.name < b.name ? -1 : a.name > b.name ? 1 : 0));
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
      .sort((a, b) => b.to - b.from - (a.to - a.from))
  };
}

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
export async function seriesIn(
  scope: Scope,
  names: readonly string[],
  sinceMs: number
): Promise<StoredSeries[]> {
  const { name, but } = namedHost(scope);
  const all = await seriesOf({ names, sinceMs });
  const ofService = scope.service ? hostsOfService(all, scope.service) : null;
  return all.filter(
    ({ source: { host, service } }) =>
      (!scope.host || (host === name) !== but) &&
      // What a host says of itself is of every service on it.
      (!ofService || service === scope.service || (!isNamed(service) && ofService.has(host)))
  );
}

const hostsOfService = (series: readonly StoredSeries[], service: string): Set<string> =>
  new Set(series.filter(({ source }) => source.service === service).map(({ source }) => source.host));

/** Those a process says of itself, or its host of it: where both do, its own count. */
function ofProcesses(series: readonly StoredSeries[]): StoredSeries[] {
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
  keyOf: (series: StoredSeries) => string;
  wordsOf: (
    sources: readonly CounterSource[],
    serving: ReadonlyMap<string, string[]>
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
        ...(serving.get(host) ?? [])
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
    keyOf: ({ source: { service } }) => (isNamed(service) ? service : ''),
    wordsOf: (sources) => {
      const [{ service }] = sources;
      return {
        name: isNamed(service) ? service : 'of no service',
        about: unique(sources.map(({ host }) => host)).join(', '),
        narrow: isNamed(service) ? { service } : {}
      };
    }
  },
  processes: {
    keyOf: ({ source }) => processKey(source),
    wordsOf: (sources) => {
      const named = sources.find(({ service }) => isNamed(service));
      const [first] = sources;
      const { host, pid } = first;
      const executable = sources
        .map(({ attributes }) => attributes.get('process.executable.name'))
        .find(Boolean);
      return {
        name: named?.service ?? String(executable ?? 'a process'),
        about: [host, pid > 0 ? `pid ${pid}` : ''].filter(Boolean).join(' · '),
        narrow: { host, ...(named && { service: named.service }) }
      };
    }
  }
};

/** Which services sent spans from which host. */
async function servicesByHost(): Promise<Map<string, string[]>> {
  const rows = await select<{ host: string; service: string }>(
    `SELECT DISTINCT h.name AS host, s.name AS service FROM resources r JOIN hosts h ON h.id = r.host_id JOIN services s ON s.id = r.service_id
      WHERE r.first_us IS NOT NULL`
  );
  return new Map(
    [...groupBy(rows, ({ host }) => host)].map(([host, of]) => [host, of.map(({ service }) => service)])
  );
}
