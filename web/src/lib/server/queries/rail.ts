import { EVIDENCE_KINDS, KINDS, type EvidenceKind } from '@tromix/core/evidence/kinds';
import { railWindow, type Scope, type TimeWindow } from '$lib/scope';
import { BROWSERS } from '../ingest/pages/page-errors';
import { select } from '../db/reader';
import { seriesStep } from './bins';
import { memoryIn } from './hosts/process-memory';
import { namedRuns, type NamedRun } from './load-runs';
import { countsIn, latency } from './rollups';

export interface RailPoint {
  /** Epoch milliseconds of the bin's start. */
  at: number;
  count: number;
  p95Ns: number;
}
export interface RailFlag {
  at: number;
  release: string;
  service: string;
}
export interface RailPin {
  at: number;
  kind: EvidenceKind;
  id: string;
  label: string;
}
export interface Rail {
  window: TimeWindow;
  /** Length of a bin in minutes. */
  stepMinutes: number;
  points: RailPoint[];
  flags: RailFlag[];
  pins: RailPin[];
  /** Load runs, the newest first. */
  runs: NamedRun[];
  /** Memory of the processes in scope, epoch milliseconds and bytes: of each process the most in a bin, added up. */
  memory: { at: number; bytes: number }[];
}

const MAX_POINTS = 240;
/** A load run has a bracket of its own. */
const PINNED = EVIDENCE_KINDS.filter((kind) => kind !== 'load');

/** A window that holds another too, with a little room beside it. */
function withBoth(window: TimeWindow, other: TimeWindow | null): TimeWindow {
  if (!other || (other.fromUs >= window.fromUs && other.toUs <= window.toUs)) return window;
  const fromUs = Math.min(window.fromUs, other.fromUs);
  const toUs = Math.max(window.toUs, other.toUs);
  const room = (toUs - fromUs) / 40;
  return {
    fromUs: fromUs < window.fromUs ? fromUs - room : fromUs,
    toUs: toUs > window.toUs ? toUs + room : toUs
  };
}

/**
 * The time rail: requests and p95 a minute under the scope's names, releases as flags, evidence as pins.
 * @param besides a time that is to be on it too: that of the other side of a comparison.
 */
export async function railOf(scope: Scope, nowMs: number, besides: TimeWindow | null = null): Promise<Rail> {
  const window = withBoth(railWindow(scope, nowMs), besides);
  const stepMinutes = seriesStep(window, nowMs, MAX_POINTS);
  const series = await countsIn(scope, window, stepMinutes);
  // The bin that still runs is left out: its few requests would look like a change.
  const points = series
    .filter(({ bin }) => (bin + 1) * stepMinutes * 60_000 <= nowMs)
    .map(({ atMs, count, sketch }) => ({
      at: atMs,
      count: count / stepMinutes,
      p95Ns: latency({ sketch }, [0.95])[0]
    }));
  const flags = await select<{ at_us: number; release: string; service: string }>(
    `SELECT l.first_us AS at_us, l.name AS release, s.name AS service FROM releases l JOIN services s ON s.id = l.service_id
      WHERE l.first_us >= ? AND l.first_us < ? AND EXISTS (SELECT 1 FROM releases o WHERE o.service_id = l.service_id AND o.first_us < l.first_us)
      ORDER BY l.first_us`,
    [window.fromUs, window.toUs]
  );
  // Profiles that pages made of themselves are found by their loads: there may be one of each.
  const pins = await select<{ at_us: number; kind: EvidenceKind; id: string; service: string }>(
    `SELECT started_at_us AS at_us, kind, id, service FROM evidence
      WHERE started_at_us >= ? AND started_at_us < ? AND kind IN (SELECT value FROM json_each(?)) AND host <> ? ORDER BY started_at_us LIMIT 200`,
    [window.fromUs, window.toUs, JSON.stringify(PINNED), BROWSERS]
  );
  const [memory, runs] = await Promise.all([
    memoryIn(scope, window, stepMinutes),
    namedRuns(window.fromUs, window.toUs, scope.run)
  ]);
  return {
    memory,
    runs,
    window,
    stepMinutes,
    points,
    flags: flags.map(({ at_us, release, service }) => ({ at: at_us / 1000, release, service })),
    pins: pins.map(({ at_us, kind, id, service }) => ({
      at: at_us / 1000,
      kind,
      id,
      label: `${KINDS[kind].label} of ${service || 'an unnamed process'}`
    }))
  };
}
