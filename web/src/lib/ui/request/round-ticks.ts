/** Round offsets from 0 within a length, at most so many: 1, 2 or 5 times a power of ten apart. */
export function roundTicks(length: number, most: number): number[] {
  if (length <= 0) return [0];
  const rough = length / most;
  const power = 10 ** Math.floor(Math.log10(rough));
  const step = ([1, 2, 5, 10].find((factor) => factor * power >= rough) ?? 10) * power;
  const ticks: number[] = [];
  for (let at = 0; at < length * 0.96; at += step) ticks.push(at);
  return ticks;
}
