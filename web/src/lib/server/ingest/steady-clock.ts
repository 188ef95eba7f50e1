/** The wall clock may drift from the monotonic one by so much between two looks and still count as going on. */
const TOLERANCE_MS = 5000;
/** After a jump the clock is trusted again once it has gone on evenly for so long. */
export const TRUSTED_AFTER_MS = 10 * 60_000;

/**
 * Tells a clock that goes on evenly from one that was set. Nothing is removed for its age on the word of a clock that has just jumped: it may
 * jump back, and what is gone stays gone.
 */
export class SteadyClock {
  #wallMs: number;
  #monotonicMs: number;
  #steadySinceMs: number;

  /** Begins to watch: a machine may start with a wrong clock, so it is not trusted at once. @param wallMs epoch. @param monotonicMs a clock that nobody sets. */
  constructor(wallMs: number, monotonicMs: number) {
    this.#wallMs = wallMs;
    this.#monotonicMs = monotonicMs;
    this.#steadySinceMs = monotonicMs;
  }

  /** @returns whether what is removed now would be removed rightly. */
  trusts(wallMs: number, monotonicMs: number): boolean {
    const drift = wallMs - this.#wallMs - (monotonicMs - this.#monotonicMs);
    if (Math.abs(drift) > TOLERANCE_MS) this.#steadySinceMs = monotonicMs;
    this.#wallMs = wallMs;
    this.#monotonicMs = monotonicMs;
    return monotonicMs - this.#steadySinceMs >= TRUSTED_AFTER_MS;
  }
}
