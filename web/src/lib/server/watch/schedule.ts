/** Whether so many minutes have passed since something was done. @param lastMs epoch milliseconds; 0 for never, which is long ago */
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
