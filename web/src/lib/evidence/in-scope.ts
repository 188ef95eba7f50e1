import { groupBy } from '@tromix/core/group-by';
import { namedHost, type Scope, type TimeWindow } from '$lib/scope';

/** Whose a piece of evidence is, and of when. */
export interface Placed {
  service: string;
  host: string;
  release: string;
  /** Null where the evidence does not tell. */
  startedAtUs: number | null;
  durationNs: number;
}

/** What tells dumps of one process from others. */
export interface InSeries extends Placed {
  id: string;
  series: string;
  receivedAtUs: number;
}

/**
 * Whether a list shows a piece of evidence, and the navigation counts it. What it does not tell of itself may be anything: it is
 * always shown.
 */
export function inScope(
  { service, host, release, startedAtUs, durationNs }: Placed,
  scope: Pick<Scope, 'service' | 'host' | 'release'>,
  { fromUs, toUs }: TimeWindow
): boolean {
  const named = (wanted: string, is: string): boolean => wanted === '' || is === '' || wanted === is;
  return (
    named(scope.service, service) &&
    (host === '' || named(namedHost(scope).name, host) !== namedHost(scope).but) &&
    named(scope.release, release) &&
    (startedAtUs === null || (startedAtUs < toUs && startedAtUs + durationNs / 1000 >= fromUs))
  );
}

/** Dumps of one process as one thing, from the first to the end of the last, in time order. */
export function seriesOf<T extends InSeries>(items: readonly T[]): (Placed & { dumps: T[]; last: T })[] {
  const startOf = ({ startedAtUs, receivedAtUs }: T): number => startedAtUs ?? receivedAtUs;
  return [...groupBy(items, ({ series, id }) => series || id).values()].map((group) => {
    const dumps = group.toSorted((a, b) => startOf(a) - startOf(b));
    const last = dumps.at(-1)!;
    const { service, host, release } = last;
    const startedAtUs = startOf(dumps[0]);
    const durationNs = (startOf(last) - startedAtUs) * 1000 + last.durationNs;
    return { service, host, release, startedAtUs, durationNs, dumps, last };
  });
}

/** Room left on both sides of what is shown, milliseconds. */
const MARGIN_MS = 60_000;

/** The time range that shows a piece of evidence with what happened around it; null where it is not known when it was taken. */
export const aroundIt = ({
  startedAtUs,
  durationNs
}: Pick<Placed, 'startedAtUs' | 'durationNs'>): { from: number; to: number } | null =>
  startedAtUs === null
    ? null
    : {
        from: Math.floor(startedAtUs / 1000 - MARGIN_MS),
        to: Math.ceil(startedAtUs / 1000 + durationNs / 1e6 + MARGIN_MS)
      };
