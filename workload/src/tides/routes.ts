import type { Routes } from '../platform/http';
import type { Settings } from '../platform/settings';
import { inSpan } from '../platform/telemetry';
import { highWater, type Constituent } from './harmonic';
import { stationFeed } from './feed';
import { WindowCache } from './cache';
import { parseStamp } from './stamp';

interface Window {
  station: number;
  from: string;
  heights: Float64Array;
}

/** Tide predictions: when the water is high enough. */
export function tidesRoutes(settings: Settings): Routes {
  const cache = new WindowCache<Window>(settings.faults.has('unbounded-cache') ? Infinity : 200);
  let constituents: Constituent[] | null = null;

  /** The constants are read when the first request asks for them, unless the cold start is fixed. */
  const constants = (): Constituent[] =>
    (constituents ??= loadConstituents(settings.faults.has('cold-start') ? 4_000_000 : 1000));
  if (!settings.faults.has('cold-start')) constants();

  const predict = (station: number): Promise<Window> =>
    inSpan('predict window', { 'quillhaven.station': station }, () => {
      const minute = Math.floor(Date.now() / 20_000);
      return cache.get(`${station}:${minute}`, () => {
        const stamps = stationFeed(station).map((line) =>
          parseStamp(line, settings.faults.has('thrown-for-control'))
        );
        const heights = new Float64Array(2048);
        const high = highWater(constants(), stamps[stamps.length - 1], heights);
        return { station, from: new Date(high).toISOString(), heights };
      });
    });
  const show = (window: Window): unknown => ({
    station: window.station,
    from: window.from,
    highest: Math.max(...window.heights)
  });
  return {
    'GET /tides/window': async ({ query }) => show(await predict(Number(query.get('station') ?? 1))),
    'GET /tides/windows': async ({ query }) => {
      const windows: unknown[] = [];
      for (let station = 1; station <= Number(query.get('stations') ?? 1); station++)
        windows.push(show(await predict(station)));
      return windows;
    }
  };
}

function loadConstituents(work: number): Constituent[] {
  let phase = 0;
  for (let i = 1; i < work; i++) phase += Math.sqrt(i) % 1;
  return Array.from({ length: 37 }, (_, i) => ({
    amplitude: 1.9 / (1 + i * 0.7),
    speed: 15.041 * (1 + (i % 4)) + i * 0.037,
    phase: (phase + i * 47) % 360
  }));
}
