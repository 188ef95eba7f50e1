import {
  COMPARISONS,
  readCondition,
  type AttributeCondition,
  type Comparison
} from '$lib/attribute-condition';
import type { Column } from './columns';

/**
 * What of a table is shown, as it stands in the URL beside its sorting: columns left out, and conditions on its texts, written as those on attributes are,
 * with the column's key for a name.
 */

/** A name in the URL; the sorting of a page's only table is plainly `sort`. */
const named = (param: string, what: string): string => (param === 'sort' ? what : `${param}-${what}`);

/** Columns that are to be shown, and those that are not, by their keys; of others the room decides. */
export interface ChosenColumns {
  shown: readonly string[];
  hidden: readonly string[];
}

/** Reads `a,!b`: with `a`, without `b`. */
export function chosenColumns(query: URLSearchParams, param: string): ChosenColumns {
  const keys = (query.get(named(param, 'columns')) ?? '').split(',').filter(Boolean);
  return {
    shown: keys.filter((key) => !key.startsWith('!')),
    hidden: keys.filter((key) => key.startsWith('!')).map((key) => key.slice(1))
  };
}

/** The address with a column shown, or hidden. */
export function withColumn(
  query: URLSearchParams,
  param: string,
  key: string,
  isShown: boolean
): URLSearchParams {
  const { shown, hidden } = chosenColumns(query, param);
  const others = [...shown, ...hidden.map((one) => `!${one}`)].filter(
    (one) => one !== key && one !== `!${key}`
  );
  const next = new URLSearchParams(query);
  next.set(named(param, 'columns'), [...others, isShown ? key : `!${key}`].join(','));
  return next;
}

/**
 * The columns there is room for. The first is what a row is: it stays.
 * @param px pixels across @param beside pixels of what stands beside the columns
 */
export function shownColumns<Row>(
  columns: readonly Column<Row>[],
  { shown, hidden }: ChosenColumns,
  px: number,
  beside: number
): Column<Row>[] {
  let left = columns.filter(({ key }, i) => i === 0 || !hidden.includes(key));
  const wanted = (): number =>
    left.reduce((sum, { width, grows, wants }) => sum + ((grows && wants) || width), beside);
  const giving = left
    .filter(({ key, gives }, i) => i > 0 && gives !== undefined && !shown.includes(key))
    .sort((a, b) => a.gives! - b.gives!);
  for (const column of giving) {
    if (wanted() <= px) break;
    left = left.filter((one) => one !== column);
  }
  return left;
}

/** Conditions on columns that are there. */
export const conditionsOf = <Row>(
  query: URLSearchParams,
  param: string,
  columns: readonly Column<Row>[]
): AttributeCondition[] =>
  query
    .getAll(named(param, 'where'))
    .map(readCondition)
    .filter((one) => one !== null)
    .filter(({ name }) => columns.some(({ key, value }) => key === name && value));

export function withConditions(
  query: URLSearchParams,
  param: string,
  texts: readonly string[]
): URLSearchParams {
  const next = new URLSearchParams(query);
  next.delete(named(param, 'where'));
  for (const text of texts) next.append(named(param, 'where'), text);
  return next;
}

/** What a comparison without its `not` holds for, of two texts in lower case. */
const HOLDS: Record<string, (text: string, value: string) => boolean> = {
  '=': (text, value) => text === value,
  '~=': (text, value) => text.includes(value),
  '^=': (text, value) => text.startsWith(value)
};

/** Does a text compare so, whatever its case? */
export function compares(text: string, comparison: Comparison, value: string): boolean {
  const holds = HOLDS[comparison.replace('!', '')](text.toLowerCase(), value.toLowerCase());
  return holds !== comparison.startsWith('!');
}

/** The rows for which every condition holds. */
export function matching<Row>(
  rows: readonly Row[],
  conditions: readonly AttributeCondition[],
  columns: readonly Column<Row>[]
): readonly Row[] {
  if (conditions.length === 0) return rows;
  const tests = conditions.map(({ name, comparison, value }) => {
    const of = columns.find(({ key }) => key === name)!.value!;
    return (row: Row): boolean => compares(String(of(row) ?? ''), comparison, value);
  });
  return rows.filter((row) => tests.every((test) => test(row)));
}

/** Columns whose values are words: those conditions are on. */
export const wordColumns = <Row>(rows: readonly Row[], columns: readonly Column<Row>[]): Column<Row>[] =>
  columns.filter(({ value }) => value && rows.some((row) => typeof value(row) === 'string'));

/** A condition in words. */
export const tableConditionWords = <Row>(
  { name, comparison, value }: AttributeCondition,
  columns: readonly Column<Row>[]
): string => `${columns.find(({ key }) => key === name)?.title ?? name} ${COMPARISONS[comparison]} ${value}`;
