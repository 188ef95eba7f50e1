import type { InValue } from '@libsql/client';
import { readCondition, type Comparison } from '$lib/attribute-condition';
import { namedHost, type Scope, type TimeWindow } from '$lib/scope';
import { isOfGroup } from '../db/of-group';
import { MORE_VALUES } from '../ingest/dictionary';

export interface Filter {
  /** Conditions joined by AND, beginning with AND; '' for none. */
  sql: string;
  args: InValue[];
}

/** Names under which a user travels (OpenTelemetry semantic conventions, current and older). */
export const USER_NAMES = ['user.id', 'user.name', 'enduser.id', 'enduser.pseudo.id'];

class Conditions implements Filter {
  sql = '';
  args: InValue[] = [];

  add(condition: string, ...values: InValue[]): void {
    this.sql += ` AND ${condition}`;
    this.args.push(...values);
  }
}

/** What tells the service of a row: its endpoint, or, of what need not happen in a request, its release. */
const OF_SERVICE = {
  endpoint: (alias: string): string =>
    `${alias}.endpoint_id IN (SELECT e.id FROM endpoints e JOIN services s ON s.id = e.service_id WHERE s.name = ?)`,
  release: (alias: string): string =>
    `${alias}.release_id IN (SELECT l.id FROM releases l JOIN services s ON s.id = l.service_id WHERE s.name = ?)`
};

/** Conditions of the scope's names on a table that has endpoint_id, host_id and release_id under the alias. */
export function namesFilter(
  scope: Scope,
  alias: string,
  serviceBy: keyof typeof OF_SERVICE = 'endpoint'
): Filter {
  const conditions = new Conditions();
  if (scope.service) conditions.add(OF_SERVICE[serviceBy](alias), scope.service);
  if (scope.endpoint)
    conditions.add(`${alias}.endpoint_id IN (SELECT id FROM endpoints WHERE name = ?)`, scope.endpoint);
  if (scope.host) {
    const { name, but } = namedHost(scope);
    conditions.add(`${alias}.host_id ${but ? 'IS NOT' : '='} (SELECT id FROM hosts WHERE name = ?)`, name);
  }
  if (scope.release)
    conditions.add(`${alias}.release_id IN (SELECT id FROM releases WHERE name = ?)`, scope.release);
  return conditions;
}

/** Conditions of the scope’s names on a table of single requests, which has trace_id too: with those of a load run. */
export function singleFilter(
  scope: Scope,
  alias: string,
  serviceBy: keyof typeof OF_SERVICE = 'endpoint'
): Filter {
  const { sql, args } = namesFilter(scope, alias, serviceBy);
  if (!scope.run) return { sql, args };
  const key = '(SELECT key FROM load_runs WHERE id = ?)';
  // Behind every hexadecimal digit stands a g.
  return {
    sql: `${sql} AND ${alias}.trace_id >= ${key} AND ${alias}.trace_id < ${key} || 'g'`,
    args: [...args, scope.run, scope.run]
  };
}

/** Conditions on `requests`: names, exact times, and everything that picks requests one by one. */
export function requestsFilter(scope: Scope, window: TimeWindow, alias = 'r'): Filter {
  const conditions = new Conditions();
  conditions.sql = `${alias}.start_us >= ? AND ${alias}.start_us < ?`;
  conditions.args = [window.fromUs, window.toUs];
  const names = singleFilter(scope, alias);
  conditions.sql += names.sql;
  conditions.args.push(...names.args);
  if (scope.slower !== undefined) conditions.add(`${alias}.duration_ns > ?`, scope.slower * 1e6);
  if (scope.faster !== undefined) conditions.add(`${alias}.duration_ns <= ?`, scope.faster * 1e6);
  if (scope.status) conditions.add(`${alias}.failed = ?`, scope.status === 'failed' ? 1 : 0);
  if (scope.group !== undefined) conditions.add(`instr(${alias}.call_groups, ?) > 0`, ` ${scope.group} `);
  if (scope.finding) conditions.add(`instr(${alias}.rules, ?) > 0`, ` ${scope.finding} `);
  if (scope.failure !== undefined)
    conditions.add(
      `EXISTS (SELECT 1 FROM failures x WHERE x.trace_id = ${alias}.trace_id AND x.span_id = ${alias}.span_id AND ${isOfGroup('x.group_id', '?')})`,
      scope.failure,
      scope.failure
    );
  if (scope.user) addAttribute(conditions, alias, USER_NAMES, '=', scope.user);
  for (const text of scope.attributes) {
    const condition = readCondition(text);
    if (condition) addAttribute(conditions, alias, [condition.name], condition.comparison, condition.value);
  }
  return conditions;
}

/** A condition on an attribute; one that says what it is not holds for requests without it, too. */
function addAttribute(
  conditions: Conditions,
  alias: string,
  names: readonly string[],
  comparison: Comparison,
  value: string
): void {
  const { sql, args } = /[~^]/.test(comparison)
    ? hasPart(alias, names, comparison.includes('^') ? 'begin' : 'anywhere', value)
    : hasValue(alias, names, value);
  conditions.add(comparison.startsWith('!') ? `NOT coalesce(${sql}, 0)` : sql, ...args);
}

/**
 * Values are searched by number, which the database looks up once; only a value that has none is looked up in the spans of
 * requests with such values.
 */
function hasValue(alias: string, names: readonly string[], value: string): Filter {
  const list = JSON.stringify(names);
  const has = (which: string): string =>
    `instr(${alias}.pairs, (SELECT ' ' || v.id || ' ' FROM attribute_values v WHERE v.name = ? AND v.value = ${which})) > 0`;
  const any = (which: string): string => `(${names.map(() => has(which)).join(' OR ')})`;
  return {
    sql: `(${any('?')}
      OR ((SELECT count(*) FROM attribute_values v WHERE v.name IN (SELECT value FROM json_each(?)) AND v.value = ?) = 0
        AND ${any(`'${MORE_VALUES}'`)}
        AND EXISTS (SELECT 1 FROM spans s, json_each(s.attributes) j WHERE s.trace_id = ${alias}.trace_id AND s.span_id = ${alias}.span_id
          AND instr(s.attributes, ?) > 0 AND j.value->>0 IN (SELECT value FROM json_each(?)) AND CAST(j.value->>1 AS TEXT) = ?)))`,
    args: [
      ...names.flatMap((name) => [name, value]),
      list,
      value,
      ...names,
      // As it stands in the stored JSON: rows without it need not be taken apart.
      JSON.stringify(value).slice(1, -1),
      list,
      value
    ]
  };
}

/** The same of a part of a value, whatever its case: numbers of all values with it are looked up once, too. */
function hasPart(alias: string, names: readonly string[], where: 'begin' | 'anywhere', part: string): Filter {
  const list = JSON.stringify(names);
  const isNamed = 'IN (SELECT value FROM json_each(?))';
  const matches = (text: string): string =>
    `instr(lower(${text}), lower(?)) ${where === 'begin' ? '= 1' : '> 0'}`;
  const has = (ids: string): string =>
    `EXISTS (SELECT 1 FROM json_each('[' || replace(trim(${alias}.pairs), ' ', ',') || ']') p WHERE p.value IN (${ids}))`;
  return {
    sql: `(${has(`SELECT v.id FROM attribute_values v WHERE v.name ${isNamed} AND v.value <> '${MORE_VALUES}' AND ${matches('v.value')}`)}
      OR (${has(`SELECT v.id FROM attribute_values v WHERE v.name ${isNamed} AND v.value = '${MORE_VALUES}'`)}
        AND EXISTS (SELECT 1 FROM spans s, json_each(s.attributes) j WHERE s.trace_id = ${alias}.trace_id AND s.span_id = ${alias}.span_id
          AND j.value->>0 ${isNamed} AND ${matches('CAST(j.value->>1 AS TEXT)')})))`,
    args: [list, part, list, list, part]
  };
}
