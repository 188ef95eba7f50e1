import type { FailureFinding } from '@tromix/core/findings/failure-finding';
import { failureTitle } from '@tromix/core/failures/identity';
import type { FailureIdentity } from '@tromix/core/failures/identity';
import type { Station } from '@tromix/core/failures/trace-failures';
import { liftsOf, type Lift } from '@tromix/core/stats/lift';
import type { Scope, TimeWindow } from '$lib/scope';
import { select, selectJson } from '../db/reader';
import type { AttributeValue } from './attributes';
import { loadMerges } from './failure-merges';
import { isOfGroup } from '../db/of-group';
import { exampleOf, type FailureExample } from './failure-example';
import { failureFindings } from './failure-findings';
import { failuresOf, identitiesOf, type FailureGroup } from './failures';
import { singleFilter } from './filter';
import { keysOf, namesOfKeys } from './lift-keys';

/** A way that failures of a group took, and how often. */
export interface FailureWay {
  stations: Station[];
  times: number;
  /** How often people saw it at its end; the others were caught, or nobody waited. */
  seen: number;
}

/** Another group, and in how many traces it occurs with this one. */
export interface WithIt {
  id: number;
  identity: FailureIdentity;
  traces: number;
}

export type FailureLift = AttributeValue & Omit<Lift, 'key' | 'slow' | 'lift'>;

export interface FailureDetail {
  group: FailureGroup;
  binMs: number;
  fromMs: number;
  ways: FailureWay[];
  /** Groups that somebody merged into it. */
  merged: { id: number; identity: FailureIdentity }[];
  findings: FailureFinding[];
  /** What it passes on, where it starts elsewhere. */
  startsAs: { id: number; identity: FailureIdentity; times: number }[];
  withIt: WithIt[];
  places: { endpoints: Count[]; hosts: Count[]; releases: Count[] };
  apart: { these: number; others: number; rows: FailureLift[] };
  example: FailureExample | null;
  /** Place of the example among the newest, from 0, and how many of them there are to go through. */
  at: number;
  of: number;
}

interface Count {
  name: string;
  service: string;
  times: number;
}

const MAX_WAYS = 12;
const MAX_WITH = 8;
const MAX_COUNTS = 8;
const MAX_EXAMPLES = 50;
const MAX_FACTS = 20_000;
const MAX_LIFTS = 12;

/** One group of failures in a scope; null where there is none in it. @param at which of its newest occurrences is shown */
export async function failureOf(
  scope: Scope,
  window: TimeWindow,
  nowMs: number,
  id: number,
  at: number
): Promise<FailureDetail | null> {
  const list = await failuresOf(scope, window, nowMs, { only: id });
  const [group] = list.groups;
  if (!group) return null;
  const merges = await loadMerges();
  const members = merges.membersOf(id);
  const within = withinOf(scope, window, members);
  const [ways, startsAs, withIt, places, apart, examples] = await Promise.all([
    waysOf(within),
    startsAsOf(within),
    withItOf(within, id),
    placesOf(within),
    apartOf(scope, window, id),
    select<{ id: number }>(
      `SELECT f.id FROM failures f WHERE ${within.sql} ORDER BY f.start_us DESC LIMIT ${MAX_EXAMPLES}`,
      within.args
    )
  ]);
  const findings = await failureFindings(scope, window, nowMs, id, failureTitle(group), ways);
  const place = Math.min(at, Math.max(0, examples.length - 1));
  const example = examples[place] ? await exampleOf(examples[place].id) : null;
  return {
    group,
    binMs: list.binMs,
    fromMs: list.fromMs,
    ways,
    merged: await identified(members.slice(1).map((member) => ({ id: member }))),
    findings,
    startsAs,
    withIt,
    places,
    apart,
    example,
    at: place,
    of: examples.length
  };
}

interface Within {
  sql: string;
  args: (string | number)[];
}

function withinOf(scope: Scope, window: TimeWindow, members: readonly number[]): Within {
  const names = singleFilter(scope, 'f', 'release');
  return {
    sql: `f.group_id IN (SELECT value FROM json_each(?)) AND f.start_us >= ? AND f.start_us < ?${names.sql}`,
    args: [JSON.stringify(members), window.fromUs, window.toUs, ...(names.args as (string | number)[])]
  };
}

async function waysOf({ sql, args }: Within): Promise<FailureWay[]> {
  const rows = await select<{ way: string; times: number; seen: number }>(
    `SELECT w.way AS way, count(*) AS times, sum(f.seen) AS seen FROM failures f JOIN failure_ways w ON w.id = f.way_id
      WHERE ${sql} GROUP BY w.id ORDER BY times DESC LIMIT ${MAX_WAYS}`,
    args
  );
  return rows.map(({ way, times, seen }) => ({
    stations: (JSON.parse(way) as [string, string][]).map(([service, label]) => ({ service, label })),
    times,
    seen
  }));
}

async function startsAsOf({ sql, args }: Within): Promise<FailureDetail['startsAs']> {
  const rows = await select<{ id: number; times: number }>(
    `SELECT coalesce(m.into_id, f.passes_on) AS id, count(*) AS times FROM failures f LEFT JOIN failure_merges m ON m.group_id = f.passes_on
      WHERE ${sql} AND f.passes_on > 0 GROUP BY 1 ORDER BY times DESC LIMIT ${MAX_WITH}`,
    args
  );
  return identified(rows);
}

async function withItOf({ sql, args }: Within, own: number): Promise<WithIt[]> {
  const rows = await select<{ id: number; traces: number }>(
    `SELECT coalesce(m.into_id, o.group_id) AS id, count(DISTINCT o.trace_id) AS traces
      FROM (SELECT DISTINCT f.trace_id FROM failures f WHERE ${sql} AND f.trace_id <> '' LIMIT ${MAX_FACTS}) t
      JOIN failures o ON o.trace_id = t.trace_id LEFT JOIN failure_merges m ON m.group_id = o.group_id
      WHERE coalesce(m.into_id, o.group_id) <> ? GROUP BY 1 ORDER BY traces DESC LIMIT ${MAX_WITH}`,
    [...args, own]
  );
  return identified(rows);
}

/** Rows of groups, with what each group is. */
async function identified<Row extends { id: number }>(
  rows: readonly Row[]
): Promise<(Row & { identity: FailureIdentity })[]> {
  const identities = await identitiesOf(rows.map(({ id }) => id));
  return rows.flatMap((row) => {
    const identity = identities.get(row.id);
    return identity ? [{ ...row, identity }] : [];
  });
}

async function placesOf({ sql, args }: Within): Promise<FailureDetail['places']> {
  const by = (column: string, table: string): Promise<Count[]> =>
    select<Count>(
      `SELECT n.name AS name, s.name AS service, count(*) AS times FROM failures f JOIN ${table} n ON n.id = f.${column}
        JOIN services s ON s.id = f.service_id WHERE ${sql} GROUP BY n.id, s.id ORDER BY times DESC LIMIT ${MAX_COUNTS}`,
      args
    );
  const [endpoints, hosts, releases] = await Promise.all([
    by('endpoint_id', 'endpoints'),
    by('host_id', 'hosts'),
    by('release_id', 'releases')
  ]);
  return { endpoints, hosts, releases };
}

/** Attributes that say nothing but that it failed. */
const TAUTOLOGIES =
  /^(?:http\.(?:response\.)?status_code|error(?:\.type)?|otel\..*|http\.(?:request\.method|route|method|response\.body\.size)|url\.(?:path|full|scheme)|server\..*|network\..*|exception\..*|rpc\..*status_code)$/;
/** What the requests with it have that the others of their endpoints have not: they themselves, and those they are part of. */
async function apartOf(scope: Scope, window: TimeWindow, id: number): Promise<FailureDetail['apart']> {
  const filter = singleFilter(scope, 'r');
  const facts = await selectJson<[has: number, hostId: number, releaseId: number, pairs: string]>(
    `SELECT json_group_array(json_array(has, host_id, release_id, pairs)) FROM (
      SELECT EXISTS (SELECT 1 FROM failures x WHERE x.trace_id = r.trace_id AND x.span_id = r.span_id AND ${isOfGroup('x.group_id', '?1')}) AS has, r.host_id, r.release_id,
          (SELECT replace(group_concat(o.pairs, ''), '  ', ' ') FROM requests o WHERE o.trace_id = r.trace_id) AS pairs
        FROM requests r WHERE r.start_us >= ?2 AND r.start_us < ?3
          AND r.endpoint_id IN (SELECT DISTINCT f.endpoint_id FROM failures f WHERE ${isOfGroup('f.group_id', '?1')} AND f.start_us >= ?2 AND f.start_us < ?3)${numbered(filter.sql, 4)}
        ORDER BY r.start_us DESC LIMIT ${MAX_FACTS})`,
    [id, window.fromUs, window.toUs, ...filter.args]
  );
  const found = liftsOf(
    facts.map(([has, hostId, releaseId, pairs]) => ({
      slow: has === 1,
      keys: new Set(keysOf(hostId, releaseId, pairs))
    }))
  );
  const names = await namesOfKeys(found.lifts.map(({ key }) => key));
  return {
    these: found.slow,
    others: found.others,
    rows: found.lifts
      .flatMap(({ key, others, slowShare, otherShare, p }) => {
        const named = names.get(key);
        return named && !TAUTOLOGIES.test(named.name) ? [{ ...named, others, slowShare, otherShare, p }] : [];
      })
      .slice(0, MAX_LIFTS)
  };
}

/** Question marks as numbered ones, from a number on: SQLite does not mix both. */
function numbered(sql: string, from: number): string {
  let next = from;
  return sql.replace(/\?/g, () => `?${next++}`);
}
