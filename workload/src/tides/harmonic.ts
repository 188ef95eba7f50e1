/** One harmonic constituent of the tide: amplitude in metres, speed in degrees an hour, phase in degrees. */
export interface Constituent {
  amplitude: number;
  speed: number;
  phase: number;
}

const HOUR = 3_600_000;
const RADIANS = Math.PI / 180;

/** The height above mean level at a time: the sum of all constituents (harmonic method of tide prediction). */
export function harmonicSum(constituents: readonly Constituent[], hours: number): number {
  let height = 0;
  for (const { amplitude, speed, phase } of constituents) {
    height += nodeFactor(speed) * amplitude * Math.cos((speed * hours - phase) * RADIANS);
  }
  return height;
}

/** The slow change of a constituent's amplitude with the moon's nodes (18.61 years). */
function nodeFactor(speed: number): number {
  return 1 + 0.037 * Math.cos(Math.pow(speed, 0.5) * RADIANS * 18.61);
}

/** Fills the heights of the next 34 hours, a minute each, and returns when the water is highest. */
export function highWater(constituents: readonly Constituent[], from: number, heights: Float64Array): number {
  let best = 0;
  for (let minute = 0; minute < heights.length; minute++) {
    heights[minute] = harmonicSum(constituents, (from / HOUR + minute / 60) % 8760);
    if (heights[minute] > heights[best]) best = minute;
  }
  return from + best * 60_000;
}
