import type { Sides } from '@tromix/core/sides';
import { SKETCH_ERROR } from '@tromix/core/stats/sketch';
import { formatDuration } from '@tromix/core/text/format';
import { NO_PICKS, scopeWindow, type Scope, type TimeWindow } from '$lib/scope';
import { select } from '../../db/reader';
import { loadRuns, type LoadRunItem } from '../load-runs';
import { latency, totalIn } from '../rollups';

/** Two sides that somebody may want to hold against each other. */
export interface Preset {
  /** What it is about, under which it is listed. */
  group: string;
  name: string;
  sides: Sides<Scope>;
}

const DAY_MS = 86_400_000;
/** Runs and hosts that are offered at most, and releases. */
const MOST = 6;
const MOST_RELEASES = 8;

/** What can be compared from here: the newest first, each group by itself. */
export async function presetsOf(scope: Scope, nowMs: number): Promise<Preset[]> {
  const window = scopeWindow(scope, nowMs);
  const lists = await Promise.all([
    ofReleases(scope, window, nowMs),
    ofRuns(scope),
    ofSlow(scope, window, nowMs),
    ofHosts(scope, window)
  ]);
  return [...lists.flat(), ...ofTimes(scope, window)];
}

/** A release against the one before it; null for the first, and for one that is not there. */
export const presetOfRelease = async (
  scope: Scope,
  release: string,
  window: TimeWindow,
  nowMs: number
): Promise<Preset | null> =>
  (await ofReleases(scope, window, nowMs, 100)).find(({ sides }) => sides.after.release === release) ?? null;

const within = ({ fromUs, toUs }: TimeWindow): Pick<Scope, 'from' | 'to'> => ({
  from: Math.floor(fromUs / 1000),
  to: Math.ceil(toUs / 1000)
});

interface ReleasePair {
  service: string;
  release: string;
  previous: string;
  firstUs: number;
  previousUs: number;
}

/** Each release, of a service that serves, against the one before it: as long before it came as after, as far as there is time. */
async function ofReleases(
  scope: Scope,
  window: TimeWindow,
  nowMs: number,
  most = MOST_RELEASES
): Promise<Preset[]> {
  const pairs = await select<ReleasePair>(
    `SELECT * FROM (
      SELECT s.name AS service, l.name AS release, l.first_us AS firstUs,
        lag(l.name) OVER w AS previous, lag(l.first_us) OVER w AS previousUs
      FROM releases l JOIN services s ON s.id = l.service_id WHERE l.first_us > 0 AND EXISTS (SELECT 1 FROM endpoints e WHERE e.service_id = l.service_id)
      WINDOW w AS (PARTITION BY l.service_id ORDER BY l.first_us, l.id))
      WHERE previous IS NOT NULL AND firstUs < ? AND (? = '' OR service = ?) ORDER BY firstUs DESC LIMIT ${most}`,
    [window.toUs, scope.service, scope.service]
  );
  const lengthUs = window.toUs - window.fromUs;
  return pairs.map(({ service, release, previous, firstUs, previousUs }) => ({
    group: 'A release against the one before',
    name: `${service} ${previous} → ${release}`,
    sides: {
      before: {
        ...scope,
        service,
        release: previous,
        run: undefined,
        ...within({ fromUs: Math.max(previousUs, firstUs - lengthUs), toUs: firstUs })
      },
      after: {
        ...scope,
        service,
        release,
        run: undefined,
        ...within({ fromUs: firstUs, toUs: Math.min(nowMs * 1000, firstUs + lengthUs) })
      }
    }
  }));
}

/** The scope of what a load run caused. */
export const scopeOfRun = (scope: Scope, { id, startedAtUs, endUs }: LoadRunItem): Scope => ({
  ...scope,
  ...NO_PICKS,
  release: '',
  run: id,
  ...within({ fromUs: startedAtUs, toUs: startedAtUs + endUs })
});

/** Each load run against the one before it that took the same steps, by what answered them. */
async function ofRuns(scope: Scope): Promise<Preset[]> {
  const runs = (await loadRuns()).filter(({ state }) => state !== 'running');
  const pairs = runs.flatMap((run) => pairOf(run, runs)).slice(0, MOST);
  return (await Promise.all(pairs.map((pair) => runPresets(scope, pair)))).flat();
}

/** A load run against the one before it that took the same steps. */
export async function presetsOfRun(scope: Scope, run: LoadRunItem): Promise<Preset[]> {
  const runs = (await loadRuns()).filter(({ state }) => state !== 'running');
  const [pair] = pairOf(run, runs);
  return pair ? runPresets(scope, pair) : [];
}

/** @param runs the newest first. */
function pairOf(after: LoadRunItem, runs: readonly LoadRunItem[]): Sides<LoadRunItem>[] {
  const before = runs.find((run) => run.startedAtUs < after.startedAtUs && stepsOf(run) === stepsOf(after));
  return before ? [{ before, after }] : [];
}

async function runPresets(scope: Scope, { before, after }: Sides<LoadRunItem>): Promise<Preset[]> {
  const endpoints = await endpointsOfRun(after.id);
  return endpoints.map(({ service, endpoint }) => {
    const place = { ...scope, service, endpoint, host: '' };
    return {
      group: 'Two load runs of the same steps',
      name: `${service} ${endpoint}: load run ${before.id} → ${after.id}`,
      sides: { before: scopeOfRun(place, before), after: scopeOfRun(place, after) }
    };
  });
}

/** What answered a run itself, not on behalf of another: the outermost requests of its traces, the most frequent first. */
export async function endpointsOfRun(id: number): Promise<{ service: string; endpoint: string }[]> {
  return select(
    `SELECT s.name AS service, e.name AS endpoint FROM (
        SELECT r.endpoint_id AS id, max(r.duration_ns) FROM requests r
        WHERE r.trace_id >= (SELECT key FROM load_runs WHERE id = ?1) AND r.trace_id < (SELECT key FROM load_runs WHERE id = ?1) || 'g'
        GROUP BY r.trace_id) o
      JOIN endpoints e ON e.id = o.id JOIN services s ON s.id = e.service_id
      GROUP BY e.id ORDER BY count(*) DESC LIMIT 3`,
    [id]
  );
}

const stepsOf = ({ plan }: LoadRunItem): string =>
  JSON.stringify(plan.steps.map(({ method, url }) => [method, pathOf(url)]));
/** Without the address of the server: the same steps may be sent to another. */
const pathOf = (url: string): string => url.replace(/^\w+:\/\/[^/]*/, '');

/** The slow requests of an endpoint against its normal ones. */
async function ofSlow(scope: Scope, window: TimeWindow, nowMs: number): Promise<Preset[]> {
  if (!scope.endpoint) return [];
  const sides = await slowAgainstNormal(scope, window, nowMs);
  return sides
    ? [
        {
          group: 'Slow against normal',
          name: `${scope.endpoint}: p40 to p60 against p95 and slower (${formatDuration(sides.after.slower! * 1e6)})`,
          sides
        }
      ]
    : [];
}

/**
 * Requests from p40 to p60 against those at or above p95; null where there are none. Where percentiles are known to 1 % only, both sides are taken so
 * much wider: of requests that all take the same time a percentile may name a time that none of them took.
 */
export async function slowAgainstNormal(
  scope: Scope,
  window: TimeWindow,
  nowMs: number
): Promise<Sides<Scope> | null> {
  const asked = { ...scope, ...NO_PICKS };
  const totals = await totalIn(asked, window, nowMs);
  const [p40, p60, p95] = latency(totals, [0.4, 0.6, 0.95]);
  if (Number.isNaN(p95)) return null;
  const off = totals.exact ? 0 : SKETCH_ERROR;
  // A scope names what is slower: just below is "at or above".
  const ms = (ns: number): number => Number((ns / 1e6).toFixed(6));
  const from = (ns: number): number => ms(Math.max(0, Math.ceil(ns) - 1));
  const fixed = { ...asked, ...within(window) };
  const normal = { slower: from(p40 * (1 - off)), faster: ms(p60 * (1 + off)) };
  return {
    before: { ...fixed, ...normal },
    // No request is on both sides.
    after: { ...fixed, slower: off === 0 ? from(p95) : Math.max(normal.faster, from(p95 * (1 - off))) }
  };
}

/** One host against all others of its service. */
async function ofHosts(scope: Scope, window: TimeWindow): Promise<Preset[]> {
  if (!scope.service || scope.host) return [];
  const hosts = await select<{ name: string }>(
    `SELECT DISTINCT h.name AS name FROM rollups m JOIN hosts h ON h.id = m.host_id
      WHERE m.step = 1 AND m.margin = 0 AND m.at >= ? AND m.at < ?
        AND m.endpoint_id IN (SELECT e.id FROM endpoints e JOIN services s ON s.id = e.service_id WHERE s.name = ?) ORDER BY 1 LIMIT 20`,
    [Math.floor(window.fromUs / 60e6), Math.ceil(window.toUs / 60e6), scope.service]
  );
  if (hosts.length < 2) return [];
  return hosts.slice(0, MOST).map(({ name }) => ({
    group: 'One host against the others',
    name: `${scope.service}: every other host → ${name}`,
    sides: { before: { ...scope, host: `!${name}` }, after: { ...scope, host: name } }
  }));
}

/** The same window before. */
function ofTimes(scope: Scope, window: TimeWindow): Preset[] {
  const lengthMs = (window.toUs - window.fromUs) / 1000;
  const earlier = (name: string, byMs: number): Preset => ({
    group: 'This time against an earlier one',
    name,
    sides: {
      before: {
        ...scope,
        ...within({ fromUs: window.fromUs - byMs * 1000, toUs: window.toUs - byMs * 1000 })
      },
      after: { ...scope, ...within(window) }
    }
  });
  return [
    earlier('the time just before', lengthMs),
    ...(lengthMs <= DAY_MS ? [earlier('a day earlier', DAY_MS)] : []),
    ...(lengthMs <= 7 * DAY_MS ? [earlier('a week earlier', 7 * DAY_MS)] : [])
  ];
}
