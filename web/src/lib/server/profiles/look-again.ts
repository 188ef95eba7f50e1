/** So soon after something changed it is looked at again, and after that ever more seldom. Milliseconds. */
export const SOONEST_MS = 20_000;
const SELDOMEST_MS = 3600_000;

/** When each of some things is to be looked at again: what does not change is looked at half as often each time. */
export class LookAgain {
  readonly #next = new Map<string, { atMs: number; waitMs: number }>();

  isDue(id: string, nowMs: number): boolean {
    return nowMs >= (this.#next.get(id)?.atMs ?? 0);
  }

  /** Notes that one was looked at. */
  looked(id: string, nowMs: number, changed: boolean): void {
    const before = this.#next.get(id)?.waitMs ?? SOONEST_MS / 2;
    const waitMs = changed ? SOONEST_MS : Math.min(SELDOMEST_MS, before * 2);
    this.#next.set(id, { atMs: nowMs + waitMs, waitMs });
  }

  /** Forgets all but these. */
  keep(ids: ReadonlySet<string>): void {
    for (const id of this.#next.keys()) if (!ids.has(id)) this.#next.delete(id);
  }
}
