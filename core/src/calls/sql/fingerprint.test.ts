import { fingerprintSync, loadModule } from 'libpg-query';
import fc from 'fast-check';
import { beforeAll, describe, expect, it } from 'vitest';
import { FAMILIES, FINER_THAN_THE_PARSER } from './corpus';
import { fingerprintSql } from './fingerprint';
import { dialectOf, type Dialect } from './tokens';

const of = (sql: string, dialect: Dialect = 'postgresql'): string => fingerprintSql(sql, dialect).text;

/** Statement → number of its group. */
function partition(statements: readonly string[], keyOf: (sql: string) => string): number[] {
  const groups = new Map<string, number>();
  return statements.map((sql) => {
    const key = keyOf(sql);
    if (!groups.has(key)) groups.set(key, groups.size);
    return groups.get(key)!;
  });
}

describe('grouping of a corpus', () => {
  beforeAll(() => loadModule());
  const statements = FAMILIES.flat();

  it('has at least 150 statements', () => expect(statements.length).toBeGreaterThanOrEqual(150));

  // Outside check: `libpg-query`, the parser of PostgreSQL itself, whose fingerprint ignores literals.
  it('is the grouping of the PostgreSQL parser', () => {
    const ours = partition(statements, of);
    const theirs = partition(statements, fingerprintSync);
    const differing: string[] = [];
    for (let i = 0; i < statements.length; i++) {
      for (let k = 0; k < i; k++) {
        if ((ours[i] === ours[k]) === (theirs[i] === theirs[k])) continue;
        differing.push(
          `${ours[i] === ours[k] ? 'only ours' : 'only theirs'} groups: ${statements[i]} | ${statements[k]}`
        );
      }
    }
    expect(differing).toEqual([]);
  });

  it('is finer than the parser in two known places', () => {
    for (const [a, b] of FINER_THAN_THE_PARSER) {
      expect(fingerprintSync(a)).toBe(fingerprintSync(b));
      expect(of(a)).not.toBe(of(b));
    }
  });
});

describe('fingerprintSql', () => {
  it.each<[Dialect, string, string]>([
    [
      'mysql',
      "SELECT `Name` FROM t WHERE a = \"x\" AND b = 'it\\'s' # end",
      'select `Name` from t where a = ? and b = ?'
    ],
    [
      'mssql',
      "SELECT [Name] FROM [dbo].[T] WHERE [Id] = @p0 AND x = N'y'",
      'select [Name] from [dbo].[T] where [Id] = ? and x = ?'
    ],
    ['oracle', 'SELECT name FROM t WHERE id = :1 AND b = :name', 'select name from t where id = ? and b = ?'],
    [
      'sqlite',
      'SELECT a FROM t WHERE id = ?1 AND b = $2 AND c = :c',
      'select a from t where id = ? and b = ? and c = ?'
    ],
    [
      'postgresql',
      "SELECT a[1:2], x::int FROM t WHERE b ?| $1 AND c @> '{}'",
      'select a[? : ?], x::int from t where b ?| ? and c @> ?'
    ],
    ['postgresql', 'SELECT 1 /* a /* nested */ b */ + 2', 'select ? + ?'],
    ['generic', 'INSERT INTO t (a, b) VALUES (1, 2), (3, 4), (5, 6)', 'insert into t(a, b) values (?, ?)'],
    ['generic', 'SELECT a FROM t WHERE (a, b) IN ((1, 2), (3, 4))', 'select a from t where (a, b) in (?)'],
    ['postgresql', 'SELECT Name, t.Select FROM Ship t', 'select Name, t.Select from Ship t'],
    [
      'postgresql',
      'SELECT a-1, -1, a - -1, 1.5e-3, .5, 0xFF FROM t',
      'select a - ?, ?, a - ?, ?, ?, ? from t'
    ]
  ])('%s: %s', (dialect, sql, expected) => expect(of(sql, dialect)).toBe(expected));

  it('keeps no literal and counts parameters', () => {
    const { text, literals, parameters } = fingerprintSql(
      "select 'secret', 42, $1 from t where x = $$hidden$$",
      'postgresql'
    );
    expect(literals).toEqual(["'secret'", '42', '$$hidden$$']);
    expect(parameters).toBe(1);
    expect(text).not.toMatch(/secret|42|hidden/);
  });

  it('ends on any text, and gives its own fingerprint back unchanged', () => {
    const word = fc.constantFrom(
      'select',
      'a',
      "'x",
      "'",
      '"',
      '$$',
      '$1',
      '(',
      ')',
      'in',
      ',',
      '--',
      '/*',
      '*/',
      '[',
      ']',
      '?',
      '1.5',
      'values',
      ';',
      '\n',
      '`',
      '\\',
      ':',
      '@'
    );
    fc.assert(
      fc.property(
        fc.array(word, { maxLength: 30 }),
        fc.constantFrom<Dialect>('postgresql', 'mysql', 'mssql', 'sqlite', 'oracle', 'generic'),
        (words, dialect) => {
          expect(typeof of(words.join(' '), dialect)).toBe('string');
        }
      )
    );
    for (const sql of FAMILIES.flat()) expect(of(of(sql))).toBe(of(sql));
  });

  it('knows the dialects by their semantic-convention names', () => {
    expect(
      ['postgresql', 'mariadb', 'microsoft.sql_server', 'sqlite', 'oracle.db', 'other_sql'].map(dialectOf)
    ).toEqual(['postgresql', 'mysql', 'mssql', 'sqlite', 'oracle', 'generic']);
  });
});
