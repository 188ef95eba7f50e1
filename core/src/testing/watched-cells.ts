import { Draws } from '../stats/draws';

/** Durations around a median, log-normal as those of services are (common practice), the same for one seed. */
export function drawsOf(count: number, median: number, seed: number): number[] {
  const draws = new Draws(seed);
  return Array.from({ length: count }, () => {
    // Box–Muller transform.
    const normal = Math.sqrt(-2 * Math.log(1 - draws.share())) * Math.cos(2 * Math.PI * draws.share());
    return median * Math.exp(0.5 * normal);
  });
}
