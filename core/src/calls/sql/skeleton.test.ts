import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { FAMILIES } from './corpus';
import { fingerprintSql, readTokens } from './fingerprint';
import { skeletonOf } from './skeleton';
import type { Dialect } from './tokens';

const DIALECTS: Dialect[] = ['postgresql', 'mysql', 'mssql', 'sqlite', 'oracle', 'generic'];

describe('the skeleton of a statement', () => {
  it('takes plain numbers and strings out, not those that are part of a name', () => {
    const sql = "SELECT t1.a2 FROM t1 WHERE id = 17 AND x > 2.5 AND s = 'it, 3'";
    expect(skeletonOf(sql)).toEqual({
      text: "SELECT t1.a2 FROM t1 WHERE id = 0 AND x > 0 AND s = '?'",
      numbersAndStrings: ['17', '2.5', "'it, 3'"]
    });
  });

  it.each([
    "SELECT E'a\\'b'",
    "SELECT N'x'",
    "SELECT 'it''s'",
    'SELECT "a"',
    "SELECT 'open",
    'SELECT 1 -- x',
    'SELECT $1, 2',
    'SELECT ::0 * 5',
    'SELECT a%0, 5',
    'SELECT .0, 5'
  ])('leaves %s to the tokeniser', (sql) => expect(skeletonOf(sql)).toBeNull());

  const piece = fc.oneof(
    fc.constantFrom(
      ...[
        'select',
        'from',
        'where',
        'in',
        '(',
        ')',
        ',',
        '.',
        '=',
        '-',
        '+',
        '::',
        ':',
        '?',
        '%',
        's',
        '@',
        "'"
      ],
      ...[
        "'a'",
        "'1'",
        "''",
        "E'x'",
        "N'x'",
        '$1',
        ':n',
        ':1',
        '@p',
        '%s',
        '?1',
        'true',
        'is',
        '0x1F',
        '1e5',
        '.5'
      ],
      ...[
        '1.',
        '1.5',
        '1..2',
        't1',
        'é1',
        '1é',
        '"q"',
        '`q`',
        '[q]',
        '--',
        '/*',
        '*/',
        '#',
        '\\',
        ';',
        'values'
      ]
    ),
    fc.nat(99_999).map(String)
  );

  it('never changes what is found', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(piece, fc.constantFrom('', ' '))),
        fc.constantFrom(...DIALECTS),
        (pieces, dialect) => {
          const sql = pieces.map(([text, space]) => text + space).join('');
          expect(fingerprintSql(sql, dialect)).toEqual(readTokens(sql, dialect));
        }
      ),
      { numRuns: 5000 }
    );
    for (const dialect of DIALECTS)
      for (const sql of FAMILIES.flat())
        expect(fingerprintSql(sql, dialect)).toEqual(readTokens(sql, dialect));
  });
});
