const MINUTE = 60_000;
const STEPS = [1, 2, 5, 10, 15, 30, 60, 120, 240, 360, 720, 1440, 2880, 10_080].map(
  (minutes) => minutes * MINUTE
);

/** Round moments between two times, at most so many, in the reader's zone. */
export function ticksOf(fromMs: number, toMs: number, most: number): number[] {
  const step = STEPS.find((candidate) => (toMs - fromMs) / candidate <= most) ?? STEPS[STEPS.length - 1];
  const zone = new Date(fromMs).getTimezoneOffset() * MINUTE;
  const ticks: number[] = [];
  const margin = (toMs - fromMs) * 0.02;
  for (let at = Math.ceil((fromMs + margin - zone) / step) * step + zone; at <= toMs - margin; at += step)
    ticks.push(at);
  return ticks;
}
