import { select } from '../db/reader';
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

/** Values of some attributes by their numbers. */
export async function valuesOf(
  names: readonly string[]
): Promise<Map<number, { name: string; value: string }>> {
  const rows = await select<{ id: number; name: string; value: string }>(
    'SELECT id, name, value FROM attribute_values WHERE name IN (SELECT value FROM json_each(?))',
    [JSON.stringify(names)]
  );
  return new Map(rows.map(({ id, name, value }) => [id, { name, value }]));
}

/** Every value by its number. */
export async function allValues(): Promise<Map<number, { name: string; value: string }>> {
  const rows = await select<{ id: number; name: string; value: string }>(
    'SELECT id, name, value FROM attribute_values'
  );
  return new Map(rows.map(({ id, name, value }) => [id, { name, value }]));
}

/** Values the user may choose from for one attribute, that begin with a text. */
export function valuesLike(name: string, begin: string): Promise<{ value: string }[]> {
  return select<{ value: string }>(
    `SELECT value FROM attribute_values WHERE name = ? AND value <> '${MORE_VALUES}' AND substr(value, 1, length(?)) = ? ORDER BY value LIMIT 50`,
    [name, begin, begin]
  );
}

/** The numbers in a stored list of pairs. */
export function numbersOf(pairs: string): number[] {
  return pairs === '' ? [] : pairs.trim().split(' ').map(Number);
}
