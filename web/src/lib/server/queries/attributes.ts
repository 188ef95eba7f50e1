import { select, selectJson } from '../db/reader';
import { MORE_VALUES } from '../ingest/dictionary';

/** Names of attributes that requests can be searched and grouped by, with how many values each has. */
export interface AttributeName {
  name: string;
  values: number;
  /** True where values beyond the numbered ones exist. */
  more: boolean;
}

export function attributeNames(): Promise<AttributeName[]> {
  return select<{ name: string; values: number; more: number }>(
    `SELECT name, count(*) AS "values", max(value = '${MORE_VALUES}') AS more FROM attribute_values GROUP BY name ORDER BY name`
  ).then((rows) => rows.map(({ name, values, more }) => ({ name, values, more: more === 1 })));
}

export interface AttributeValue {
  name: string;
  value: string;
}

type ValueRow = [id: number, name: string, value: string];
const VALUES = 'SELECT json_group_array(json_array(id, name, value)) FROM attribute_values';
const byId = (rows: readonly ValueRow[]): Map<number, AttributeValue> =>
  new Map(rows.map(([id, name, value]) => [id, { name, value }]));

/** Every value of some attributes, by its number. */
export const valuesOf = (names: readonly string[]): Promise<Map<number, AttributeValue>> =>
  selectJson<ValueRow>(`${VALUES} WHERE name IN (SELECT value FROM json_each(?))`, [
    JSON.stringify(names)
  ]).then(byId);

/** Some values by their numbers. */
export const valuesById = (ids: readonly number[]): Promise<Map<number, AttributeValue>> =>
  selectJson<ValueRow>(`${VALUES} WHERE id IN (SELECT value FROM json_each(?))`, [JSON.stringify(ids)]).then(
    byId
  );

/** Values the user may choose from for one attribute, that begin with a text. */
export function valuesLike(name: string, begin: string): Promise<{ value: string }[]> {
  return select<{ value: string }>(
    `SELECT value FROM attribute_values WHERE name = ? AND value <> '${MORE_VALUES}' AND substr(value, 1, length(?)) = ? ORDER BY value LIMIT 50`,
    [name, begin, begin]
  );
}

/** What is said of requests without a value. */
export const NOT_SET = '(not set)';

/** The first of some values that a request has. @param pairs its stored list */
export function valueAmong(pairs: string, values: ReadonlyMap<number, AttributeValue>): string {
  for (const id of numbersOf(pairs)) {
    const known = values.get(id);
    if (known) return known.value;
  }
  return NOT_SET;
}

/** The numbers in a stored list of pairs. */
export function numbersOf(pairs: string): number[] {
  return pairs === '' ? [] : pairs.trim().split(' ').map(Number);
}
