import type { Bins } from '@tromix/core/counters/bins';
import { lineOf, STRIP_NAMES, type Line, type MeasureKey } from '@tromix/core/counters/strips';
import { ratesIn, seriesOf, type MsWindow, type StoredSeries } from '../counters';
import type { Scope, TimeWindow } from '$lib/scope';
import { binnedSeries, ofProcesses } from './hosts';
import { namesById } from '../names-by-id';
import { totalsIn } from '../rollups';
import { Serving, servingProcesses } from './serving-processes';

/** A process that takes part in something, or a service on a host. */
export interface TakingPart {
  host: string;
  /** 0 where it is not told: then it is whatever of the service runs on the host. */
  pid: number;
  service: string;
}

/** What a host and a process of it tell over a time. */
export interface ToldOf {
  ofHost: (measure: MeasureKey) => Line | null;
  ofProcess: (measure: MeasureKey) => Line | null;
  /** Series the process tells, or its host of it. */
  own: StoredSeries[];
  binsOf: (series: StoredSeries) => Bins | undefined;
}

/** What processes and their hosts tell over a time. @param more metrics that are read besides those of strips */
export async function toldBy(
  processes: readonly TakingPart[],
  window: MsWindow,
  stepMs: number,
  more: readonly string[] = []
): Promise<(process: TakingPart) => ToldOf> {
  const hosts = [...new Set(processes.map(({ host }) => host))];
  const series =
    hosts.length === 0
      ? []
      : await seriesOf({ names: [...STRIP_NAMES, ...more], hosts, sinceMs: window.fromMs });
  const serving = new Serving(
    await servingProcesses(),
    series.map(({ source }) => source)
  );
  const bins = await ratesIn(series, window, stepMs);
  const line = (measure: MeasureKey, of: readonly StoredSeries[]): Line | null =>
    lineOf(
      measure,
      of.map((one) => binnedSeries(one, bins.get(one.id)))
    );
  return ({ host, pid, service }) => {
    const here = series.filter(({ source }) => source.host === host);
    const ofHost = here.filter(({ source }) => source.pid === 0);
    const own = ofProcesses(
      here.filter(({ source }) => (pid > 0 ? source.pid === pid : serving.serviceOf(source) === service))
    );
    return {
      ofHost: (measure) => line(measure, ofHost),
      ofProcess: (measure) => line(measure, own),
      own,
      binsOf: ({ id }) => bins.get(id)
    };
  };
}

/** Services and hosts beyond these are not asked of. */
const MOST_SERVED = 50;

/** The services and hosts that served the requests of a scope, those of the most first. */
export async function servedBy(scope: Scope, window: TimeWindow, nowMs: number): Promise<TakingPart[]> {
  const totals = await totalsIn(scope, window, nowMs, 'service', 'host');
  const most = [...totals].sort(([, a], [, b]) => b.count - a.count).slice(0, MOST_SERVED);
  const keys = most.map(([key]) => key.split(' ').map(Number));
  const [services, hosts] = await Promise.all([
    namesById(
      'services',
      keys.map(([service]) => service)
    ),
    namesById(
      'hosts',
      keys.map(([, host]) => host)
    )
  ]);
  return keys.map(([service, host]) => ({
    service: services.get(service) ?? '',
    host: hosts.get(host) ?? '',
    pid: 0
  }));
}
