const LINES = 160;

/** The gauge readings of a station as its logger writes them: ISO stamps, the form the parser tries last. */
export function stationFeed(station: number): string[] {
  const begin = Date.UTC(2026, 2, 1) + station * 1000;
  return Array.from({ length: LINES }, (_, i) => new Date(begin + i * 360_000).toISOString());
}
