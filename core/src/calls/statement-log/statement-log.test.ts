import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { EvidenceError } from '../../formats/evidence-error';
import { recognise } from '../../formats/recognise';
import { FileHead } from '../../formats/file-head';
import { readStatementLog } from './read';
import { recogniseStatementLog } from './recognise';

// Columns and their order: PostgreSQL documentation, "Using CSV-Format Log Output". Contents are invented.
const csv = (message: string, at = '2026-11-20 09:00:00.250 UTC'): string =>
  `${at},"berths","haven",812,"10.0.0.4:5010",6aa.1,7,"SELECT",2026-11-20 08:00:00 UTC,3/9,0,LOG,00000,"${message.replaceAll('"', '""')}",,,,,,,,,"planner","client backend",,0`;
const PG_CSV = [
  csv('duration: 12.500 ms  statement: SELECT id FROM "Line"\n WHERE call = 7'),
  csv(
    'duration: 7.500 ms  execute <unnamed>: SELECT id FROM "Line" WHERE call = 8',
    '2026-11-20 09:00:01.250 UTC'
  ),
  csv('duration: 900.000 ms  statement: UPDATE berth SET free = true'),
  csv('connection received: host=10.0.0.4')
].join('\n');
// Lines as log_min_duration_statement writes them with log_line_prefix '%m [%p] %u@%d '; continuation lines begin with a tab.
const PG_STDERR = `2026-11-20 09:00:00.250 UTC [812] berths@haven LOG:  duration: 12.500 ms  statement: SELECT id FROM line
\tWHERE call = 7
2026-11-20 09:00:01.000 UTC [812] berths@haven LOG:  duration: 0.300 ms
2026-11-20 09:00:02.000 UTC [813] berths@haven ERROR:  no such table
`;
// MySQL reference manual, "The Slow Query Log": the header lines of each entry.
const MYSQL = `/usr/sbin/mysqld, Version: 8.0.36. started with:
# Time: 2026-11-20T09:00:00.250000Z
# User@Host: berths[berths] @ localhost []  Id:    12
# Query_time: 1.250000  Lock_time: 0.000100 Rows_sent: 40  Rows_examined: 90000
use haven;
SET timestamp=1795338000;
SELECT * FROM line
WHERE call_id = 7;
# Query_time: 0.750000  Lock_time: 0.000100 Rows_sent: 20  Rows_examined: 90000
SELECT * FROM line WHERE call_id = 8;
`;

describe('readStatementLog', () => {
  it('groups a PostgreSQL csvlog', () => {
    const log = readStatementLog(PG_CSV, 'postgresql-csvlog');
    expect(log.statements).toBe(3);
    expect(log.groups.map(({ fingerprint, calls, totalNs }) => [fingerprint, calls, totalNs])).toEqual([
      ['update berth set free = ?', 1, 900e6],
      ['select id from "Line" where call = ?', 2, 20e6]
    ]);
    expect(log.groups[1]).toMatchObject({ slowestNs: 12.5e6, verb: 'select' });
    expect([...log.groups[1].askers]).toEqual([['berths@haven', 2]]);
    expect([log.firstUs, log.lastUs]).toEqual([1795165200250000, 1795165201250000].map((us) => us));
  });

  it('reads stderr lines with their continuations, and says what it left out', () => {
    const log = readStatementLog(PG_STDERR, 'postgresql-stderr');
    expect(log.groups).toMatchObject([{ fingerprint: 'select id from line where call = ?', calls: 1 }]);
    expect(log.warnings).toMatchObject([{ code: 'duration-alone', count: 1 }]);
  });

  it('reads a MySQL slow log with rows, user and database', () => {
    const log = readStatementLog(MYSQL, 'mysql-slow-log');
    expect(log.groups).toMatchObject([
      { fingerprint: 'select * from line where call_id = ?', calls: 2, totalNs: 2e9, rows: 60, rowsKnown: 2 }
    ]);
    expect(log.firstUs).toBe(1795165200250000);
  });

  it('keeps no value', () => {
    const kept = JSON.stringify(
      readStatementLog(PG_CSV.replace('= 7', "= 'hush'"), 'postgresql-csvlog').groups
    );
    expect(kept).not.toContain('hush');
  });

  it('says in words that a log tells no statement', () => {
    const silent = '2026-11-20 09:00:02.000 UTC [813] LOG:  checkpoint complete\n';
    expect(() => readStatementLog(silent, 'postgresql-stderr')).toThrow(EvidenceError);
    expect(() => readStatementLog(silent, 'postgresql-stderr')).toThrow(/log_min_duration_statement/);
  });

  it('bears any text', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'binary', maxLength: 400 }), (text) => {
        for (const format of ['postgresql-csvlog', 'postgresql-stderr', 'mysql-slow-log'] as const)
          try {
            readStatementLog(text, format);
          } catch (cause) {
            expect(cause).toBeInstanceOf(EvidenceError);
          }
      })
    );
  });
});

describe('recognising logs of statements', () => {
  const bytes = (text: string): Uint8Array => new TextEncoder().encode(text);
  it.each([
    [PG_CSV, 'postgresql-csvlog'],
    [PG_STDERR, 'postgresql-stderr'],
    [MYSQL, 'mysql-slow-log']
  ])('goes by the shape of the lines', (text, format) => expect(recognise(bytes(text)).format).toBe(format));
  it('takes no log of another program', () => {
    const other = '10.0.0.4 - - [20/Nov/2026:09:00:00 +0000] "GET /plan HTTP/1.1" 200 512\n';
    expect(recogniseStatementLog(new FileHead(new TextEncoder().encode(other)))).toBeNull();
    expect(() => recognise(bytes(other))).toThrow(/statement log/);
  });
});
