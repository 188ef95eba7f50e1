/** Something done again and again. Milliseconds of the epoch. */
interface Every {
  everyMinutes: number;
  /** When it was asked for: the first time is one pause later. */
  sinceMs: number;
}

/** Whether a pause is over. @param lastMs when it was done last; 0 for never */
export const isTimeFor = ({ everyMinutes, sinceMs }: Every, lastMs: number, nowMs: number): boolean =>
  hasRested(everyMinutes, lastMs === 0 ? sinceMs : lastMs, nowMs);

/** Whether so many minutes have passed since something was done. */
export const hasRested = (minutes: number, lastMs: number, nowMs: number): boolean =>
  nowMs - lastMs >= minutes * 60_000;

/** Does some work again and again until the server ends: the pause begins when the work has ended, whether it failed or not. */
export function repeatedly(
  pauseMs: number,
  work: () => Promise<unknown>,
  failed: (cause: unknown) => void
): void {
  const again = (): void => {
    setTimeout(() => void work().catch(failed).finally(again), pauseMs).unref();
  };
  again();
}
