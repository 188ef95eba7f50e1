import { describe, expect, it } from 'vitest';
import { toTsv } from '@tromix/core/text/csv';
import { csvFields, nextSorting, sortingFrom, type Column } from './columns';

interface Row {
  name: string;
  totalNs: number | null;
}
const columns: Column<Row>[] = [
  { key: 'name', title: 'name', width: 100, value: ({ name }) => name },
  { key: 'bar', title: '', width: 40 },
  { key: 'total', title: 'total', width: 60, value: ({ totalNs }) => totalNs }
];

describe('sorting', () => {
  it('begins with the greatest of numbers and the first of texts, and turns at the second click', () => {
    expect(nextSorting(sortingFrom('name'), 'total', true)).toBe('-total');
    expect(nextSorting(sortingFrom('-total'), 'total', true)).toBe('total');
    expect(nextSorting(sortingFrom('total'), 'total', true)).toBe('-total');
    expect(nextSorting(sortingFrom('-total'), 'name', false)).toBe('name');
    expect(sortingFrom('-total')).toEqual({ key: 'total', direction: 'desc' });
  });
});

describe('export', () => {
  it('gives unrounded values of the columns that have some, and nothing for what is not known', () => {
    expect(csvFields(columns, { name: 'GET /plan', totalNs: 123_456_789 })).toEqual([
      'GET /plan',
      123_456_789
    ]);
    expect(csvFields(columns, { name: 'GET /plan', totalNs: null })).toEqual(['GET /plan', '']);
  });
  it('keeps a copied table in its rows and columns, whatever stands in a field', () => {
    expect(toTsv(['name', 'total'], [['a\tb\r\nc', 1]])).toBe('name\ttotal\na b c\t1');
    expect(
      toTsv(
        [],
        [
          ['=HYPERLINK("x")', -1],
          ['@SUM(A1)', 2]
        ]
      )
    ).toContain('\'=HYPERLINK("x")\t-1\n\'@SUM(A1)\t2');
  });
});
