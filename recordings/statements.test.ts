import { readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { gunzipSync } from 'node:zlib';
import { describe, expect, it } from 'vitest';
import { readStatementLog, StatementLogReader } from '../core/src/calls/statement-log/read';
import type { StatementLog } from '../core/src/calls/statement-log/model';
import { fingerprintSql } from '../core/src/calls/sql/fingerprint';
import { recognise } from '../core/src/formats/recognise';

/**
 * Logs of a real PostgreSQL 15 under prefixes and formats in common use, and of a real MariaDB 10.11 (`statements/record.mjs`), against what
 * PostgreSQL's own `pg_stat_statements` counted of the same run.
 */
const FOLDER = path.join(import.meta.dirname, 'statements');
const RUNS = readdirSync(FOLDER).filter((name) => name.endsWith('.gz'));
const bytesOf = (name: string): Uint8Array => gunzipSync(readFileSync(path.join(FOLDER, name)));
function read(name: string): StatementLog {
  const bytes = bytesOf(name);
  const { kind, format } = recognise(bytes);
  if (kind !== 'statements') throw new Error(`${name} is taken for ${format}`);
  return readStatementLog(new TextDecoder().decode(bytes), format);
}

interface Counted {
  query: string;
  calls: number;
  ms: number;
}
const countedOf = (name: string): Counted[] =>
  JSON.parse(
    readFileSync(path.join(FOLDER, name.replace(/\.\w+\.gz$/, '.counted.json')), 'utf8')
  ) as Counted[];

describe.each(RUNS.filter((name) => name.startsWith('pg-')))('%s', (name) => {
  const log = read(name);

  it('counts each execution once, as the server itself does', () => {
    const byHand = new Map(
      countedOf(name).map(({ query, calls }) => [fingerprintSql(query, 'postgresql').text, calls])
    );
    expect(new Map(log.groups.map(({ fingerprint, calls }) => [fingerprint, calls]))).toEqual(byHand);
  });

  it('sums them up within 2 % of the server’s own total, and tells planning apart', () => {
    // The log times whole messages, the server's counters the executor alone: some microseconds of each execution, and the flush of a COMMIT.
    const counted = countedOf(name).reduce((sum, { ms }) => sum + ms, 0);
    const logged = log.groups.reduce((sum, { totalNs }) => sum + totalNs / 1e6, 0);
    expect(Math.abs(logged - counted) / counted).toBeLessThan(0.02);
    expect(log.groups.find(({ fingerprint }) => fingerprint.includes('port_call'))!.planNs).toBeGreaterThan(
      0
    );
    expect(log.warnings.map(({ code }) => code)).toContain('planning-apart');
    expect(log.warnings.map(({ code }) => code)).not.toContain('line-skipped');
  });

  it('knows when, or says that it does not', () => {
    const from = Date.parse('2026-11-28T11:00:00Z') * 1000;
    expect(log.firstUs).toBeGreaterThan(from);
    expect(log.lastUs).toBeLessThan(from + 3_600_000_000);
    expect(log.lastUs! - log.firstUs!).toBeLessThan(5_000_000);
    expect(log.warnings.map(({ code }) => code)).not.toContain('zone-unknown');
  });

  it('knows who asked where the prefix says it', () => {
    const askers = log.groups.flatMap((group) => [...group.askers.keys()]);
    const silent = /time-alone|zone|explained/.test(name);
    expect(new Set(askers)).toEqual(new Set(silent ? [] : ['quay@quay']));
  });

  it('reads the same in pieces of any length', () => {
    const text = new TextDecoder().decode(bytesOf(name));
    for (const length of [1, 7, 4096]) {
      const reader = new StatementLogReader(log.format);
      for (let at = 0; at < text.length; at += length) reader.push(text.slice(at, at + length));
      expect(reader.end()).toEqual(log);
    }
  });
});

describe('a log in a container', () => {
  it.each([
    ['db-1  | ', ''],
    ['2026-11-28T11:29:42.629123456Z stdout F ', '']
  ])('is read under the prefix %s', (prefix) => {
    const text = new TextDecoder().decode(bytesOf('pg-stderr-default.log.gz'));
    const inside = text.replace(/^(?=.)/gm, prefix);
    const bytes = new TextEncoder().encode(inside);
    expect(recognise(bytes).format).toBe('postgresql-stderr');
    const { groups } = readStatementLog(inside, 'postgresql-stderr');
    expect(groups.map(({ calls }) => calls)).toEqual(
      read('pg-stderr-default.log.gz').groups.map(({ calls }) => calls)
    );
  });
  it('says so of a zone that means several', () => {
    const text = new TextDecoder().decode(bytesOf('pg-stderr-zone.log.gz')).replaceAll(' CET ', ' CST ');
    const log = readStatementLog(text, 'postgresql-stderr');
    expect(log.firstUs).toBeNull();
    expect(log.warnings.map(({ code }) => code)).toContain('zone-unknown');
  });
});

describe('MariaDB', () => {
  const log = read('mariadb-slow.log.gz');
  const group = (part: string) =>
    log.groups.find(({ fingerprint }) => fingerprint.toLowerCase().includes(part))!;
  it('is read with schema, waits for locks, rows and rows examined, without a warning of its header', () => {
    expect(group('insert into cargo').calls).toBe(20);
    expect(group('select tonnes').calls).toBe(12);
    expect(group('select tonnes').examined).toBeGreaterThan(0);
    expect(group('insert into cargo').lockNs).toBeGreaterThan(0);
    expect([...group('insert into cargo').askers]).toEqual([['quay@quay', 20]]);
    expect([...group('sleep').askers]).toEqual([['quay@other', 1]]);
    expect(group('use other').calls).toBe(1);
    expect(log.warnings.map(({ code }) => code)).toEqual(['lock-time']);
    expect(log.firstUs).toBe(1795865856 * 1e6);
  });
});
