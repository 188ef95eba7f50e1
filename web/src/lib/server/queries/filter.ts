import type { InValue } from '@libsql/client';
import type { Scope, TimeWindow } from '$lib/scope';

export interface Filter {
  /** Conditions joined by AND, beginning with AND; '' for none. */
  sql: string;
  args: InValue[];
}

/** Conditions of the scope's names on a table that has endpoint_id, host_id and release_id under the alias. */
export function namesFilter(scope: Scope, alias: string): Filter {
  let sql = '';
  const args: InValue[] = [];
  const add = (condition: string, ...values: InValue[]): void => {
    sql += ` AND ${condition}`;
    args.push(...values);
  };
  if (scope.service)
    add(
      `${alias}.endpoint_id IN (SELECT e.id FROM endpoints e JOIN services s ON s.id = e.service_id WHERE s.name = ?)`,
      scope.service
    );
  if (scope.endpoint)
    add(`${alias}.endpoint_id IN (SELECT id FROM endpoints WHERE name = ?)`, scope.endpoint);
  if (scope.host) add(`${alias}.host_id = (SELECT id FROM hosts WHERE name = ?)`, scope.host);
  if (scope.release) add(`${alias}.release_id IN (SELECT id FROM releases WHERE name = ?)`, scope.release);
  return { sql, args };
}

/** Conditions on `requests`: names, exact times, and the least duration. */
export function requestsFilter(scope: Scope, window: TimeWindow, alias = 'r'): Filter {
  const names = namesFilter(scope, alias);
  const slower = scope.slower === undefined ? '' : ` AND ${alias}.duration_ns > ?`;
  return {
    sql: `${alias}.start_us >= ? AND ${alias}.start_us < ?${names.sql}${slower}`,
    args: [
      window.fromUs,
      window.toUs,
      ...names.args,
      ...(scope.slower === undefined ? [] : [scope.slower * 1e6])
    ]
  };
}

/** Whole minutes of a window: roll-ups know no finer time. */
export function minutesOf(window: TimeWindow): { from: number; to: number } {
  return { from: Math.floor(window.fromUs / 60e6), to: Math.ceil(window.toUs / 60e6) };
}
