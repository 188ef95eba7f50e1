import { describe, expect, it } from 'vitest';
import type { Column } from './columns';
import {
  chosenColumns,
  compares,
  conditionsOf,
  matching,
  shownColumns,
  tableConditionWords,
  withColumn,
  withConditions,
  wordColumns
} from './table-choices';

interface Row {
  name: string;
  host: string | null;
  count: number;
}
const COLUMNS: Column<Row>[] = [
  { key: 'name', title: 'name', width: 1, value: ({ name }) => name },
  { key: 'host', title: 'of host', width: 1, value: ({ host }) => host },
  { key: 'count', title: 'count', width: 1, value: ({ count }) => count },
  { key: 'bar', title: 'where it goes', width: 1 }
];
const ROWS: Row[] = [
  { name: 'POST /berth', host: 'quay-1', count: 1 },
  { name: 'GET /Berths', host: 'quay-2', count: 2 },
  { name: 'GET /window', host: null, count: 3 }
];
const found = (query: string): number[] =>
  matching(ROWS, conditionsOf(new URLSearchParams(query), 'sort', COLUMNS), COLUMNS).map(
    ({ count }) => count
  );

describe('conditions on a table', () => {
  it.each([
    ['', [1, 2, 3]],
    ['where=name~=BERTH', [1, 2]],
    ['where=name!~=berth', [3]],
    ['where=name^=get', [2, 3]],
    ['where=name!^=get', [1]],
    ['where=host=quay-1', [1]],
    ['where=host!=quay-1', [2, 3]],
    ['where=name~=berth&where=host!=quay-1', [2]],
    ['where=nothing~=x', [1, 2, 3]],
    ['where=bar~=x', [1, 2, 3]],
    ['other-where=name~=window', [1, 2, 3]]
  ])('%s', (query, counts) => expect(found(query)).toEqual(counts));

  it('hold for texts whatever their case', () => {
    expect(compares('Quay', '=', 'qUAY')).toBe(true);
    expect(compares('Quay', '!=', 'qUAY')).toBe(false);
  });

  it('are on columns of words, and said with the column’s title', () => {
    expect(wordColumns(ROWS, COLUMNS).map(({ key }) => key)).toEqual(['name', 'host']);
    expect(tableConditionWords({ name: 'host', comparison: '!=', value: 'quay-1' }, COLUMNS)).toBe(
      'of host is not quay-1'
    );
  });
});

describe('the choices of a table', () => {
  it('stand in the address beside all else, under its own name', () => {
    const query = new URLSearchParams('service=berths&where=name~=x');
    expect(withConditions(query, 'sort', ['name~=a', 'host=b']).toString()).toBe(
      'service=berths&where=name%7E%3Da&where=host%3Db'
    );
    expect(withColumn(query, 'pools', 'host', false).get('pools-columns')).toBe('!host');
    const chosen = new URLSearchParams('columns=host,!count');
    expect(chosenColumns(chosen, 'sort')).toEqual({ shown: ['host'], hidden: ['count'] });
    expect(withColumn(chosen, 'sort', 'count', true).get('columns')).toBe('host,count');
  });

  it('give columns up where there is no room for them, but for those that are asked for', () => {
    const columns: Column<Row>[] = [
      { key: 'name', title: '', width: 100, grows: true, wants: 200 },
      { key: 'share', title: '', width: 50, gives: 2 },
      { key: 'mean', title: '', width: 50, gives: 1 },
      { key: 'total', title: '', width: 50 }
    ];
    const shown = (px: number, query = ''): string =>
      shownColumns(columns, chosenColumns(new URLSearchParams(query), 'sort'), px, 20)
        .map(({ key }) => key)
        .join(' ');
    expect(shown(370)).toBe('name share mean total');
    expect(shown(369)).toBe('name share total');
    expect(shown(200)).toBe('name total');
    expect(shown(200, 'columns=mean')).toBe('name mean total');
    expect(shown(1000, 'columns=!total,!name')).toBe('name share mean');
  });
});
