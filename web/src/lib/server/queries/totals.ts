import { emptySketch, mergeInto, type Sketch } from '@tromix/core/stats/sketch';
import { ACCOUNTS, emptyLedger, type Ledger } from '@tromix/core/trace/account';

/** Durations of requests, nanoseconds, ascending: of all, and of those that failed. */
export interface ExactDurations {
  all: Float64Array;
  failed: Float64Array;
}

/** Sums of any number of roll-up rows. */
export interface Totals {
  count: number;
  failed: number;
  totalNs: number;
  exclusiveNs: number;
  calls: number;
  /** With everything the requests call. */
  inclusive: Ledger;
  /** Every nanosecond once. */
  exclusive: Ledger;
  sketch: Sketch;
  failedSketch: Sketch;
  /** Where they are few and all kept. */
  exact?: ExactDurations;
}

export function emptyTotals(): Totals {
  return {
    count: 0,
    failed: 0,
    totalNs: 0,
    exclusiveNs: 0,
    calls: 0,
    inclusive: emptyLedger(),
    exclusive: emptyLedger(),
    sketch: emptySketch(),
    failedSketch: emptySketch()
  };
}

/** What rows are summed by. Numbers of hosts, releases and services are those of their tables. */
export type By = 'all' | 'endpoint' | 'service' | 'host' | 'release';

export function addTotals(target: Totals, source: Totals): void {
  target.exact = joinExact(target, source);
  target.count += source.count;
  target.failed += source.failed;
  target.totalNs += source.totalNs;
  target.exclusiveNs += source.exclusiveNs;
  target.calls += source.calls;
  for (const account of ACCOUNTS) {
    target.inclusive[account] += source.inclusive[account];
    target.exclusive[account] += source.exclusive[account];
  }
  mergeInto(target.sketch, source.sketch);
  mergeInto(target.failedSketch, source.failedSketch);
}

/** Sums of all parts. */
export function sumOf(parts: ReadonlyMap<string, Totals>): Totals {
  const sum = emptyTotals();
  for (const part of parts.values()) addTotals(sum, part);
  return sum;
}

/** Durations known at once at most. */
const MAX_JOINED = 12_000;

/** Durations of two sums together; undefined where one of them does not know its own. */
function joinExact(
  one: { count: number; exact?: ExactDurations },
  other: { count: number; exact?: ExactDurations }
): ExactDurations | undefined {
  if (one.count === 0) return other.exact;
  if (other.count === 0) return one.exact;
  if (!one.exact || !other.exact || one.count + other.count > MAX_JOINED) return undefined;
  const join = (a: Float64Array, b: Float64Array): Float64Array => Float64Array.of(...a, ...b).sort();
  return {
    all: join(one.exact.all, other.exact.all),
    failed: join(one.exact.failed, other.exact.failed)
  };
}
