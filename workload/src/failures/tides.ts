import type { Routes } from '../platform/http';
import { Files } from '../platform/files';
import { log } from '../platform/log';
import type { Settings } from '../platform/settings';
import { WindowCache } from '../tides/cache';
import { HttpError } from './http-error';

export class GaugeSilent extends HttpError {}

const READINGS = 9000;

const gaugeLog = (station: number): string => `gauges/${station}.log`;
const readingsOf = (): string =>
  Array.from({ length: READINGS }, (_, i) => `${i * 6} min ${Math.sin(i * 0.01).toFixed(3)} m`).join('\n');

/** The readings of gauges: some do not answer at the first try; all are kept, without a limit where the cache has none. */
export function gaugeRoutes(settings: Settings): Routes {
  const cache = new WindowCache<number[]>(settings.faults.has('unbounded-cache') ? Infinity : 200);
  const files = new Files(settings.dataFolder);
  let asked = 0;
  return {
    'GET /tides/gauge': async ({ query }) => {
      const station = Number(query.get('station') ?? 1);
      asked++;
      if (settings.faults.has('flaky-gauge') && station % 5 === 0 && asked % 3 !== 0)
        throw new GaugeSilent(503, `the gauge of station ${station} is silent`);
      const file = gaugeLog(station);
      files.setUp(file, readingsOf);
      // The whole of it for its last line.
      const last = (await files.read(file)).trimEnd().split('\n').at(-1);
      // Every reading has its own key: what is kept is hardly asked for again.
      const readings = cache.get(`${station}:${Date.now()}:${asked}`, () =>
        Array.from({ length: READINGS }, (_, i) => Math.sin(i * 0.01 + station) * 2.5)
      );
      if (asked % 50 === 0) log.info(`${asked} gauges were read`, { asked });
      return { station, last, height: readings.at(-1) };
    }
  };
}
