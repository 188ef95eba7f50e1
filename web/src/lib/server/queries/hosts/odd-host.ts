import type { Line } from '@tromix/core/counters/strips';
import { NO_PICKS, type Scope, type TimeWindow } from '$lib/scope';
import { stripsOf, type Strips } from './hosts';

/** In what a host stood clear of the others, by the counters of a time. */
export interface OddHost {
  /** The strips with what is odd of this host alone. */
  strips: Strips;
  /** Whether it tells any counters, and whether others do: without them nothing can be said. */
  tells: boolean;
  othersTell: boolean;
}

/** Holds the counters of a host against those of the others of a scope. */
export async function oddHost(scope: Scope, window: TimeWindow, host: string): Promise<OddHost> {
  const strips = await stripsOf({ ...scope, ...NO_PICKS, host: '', endpoint: '' }, window, 'hosts');
  const row = strips.rows.findIndex(({ key }) => key === host);
  const tell = (lines: Partial<Record<string, Line | null>>): boolean => Object.values(lines).some(Boolean);
  return {
    strips: { ...strips, odd: strips.odd.filter((one) => one.row === row) },
    tells: row >= 0 && tell(strips.rows[row].lines),
    othersTell: strips.rows.some(({ lines }, i) => i !== row && tell(lines))
  };
}
