/**
 * Records statement logs of a PostgreSQL and a MariaDB server on loopback, and what PostgreSQL's own `pg_stat_statements` counted meanwhile.
 * Needs superusers `quay` (password and database `quay`) on both, `shared_preload_libraries = 'pg_stat_statements,auto_explain'` and
 * `compute_query_id = on`, and the packages of ../traces. Usage: node record.mjs
 */
import { readFileSync, rmSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import path from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { gzipSync } from 'node:zlib';

const HERE = import.meta.dirname;
const require = createRequire(path.join(HERE, '../traces/package.json'));
const pg = require('pg');
const mysql = require('mysql2/promise');
const LOGIN = { host: '127.0.0.1', user: 'quay', password: 'quay', database: 'quay' };
const save = (name, bytes) => {
  writeFileSync(path.join(HERE, `${name}.gz`), gzipSync(bytes, { level: 9 }));
  console.log(name, bytes.length);
};

/** Statements of all kinds: simple, with parameters (parse, bind and execute), named (parsed once), failing, of several lines, with a duration in a literal. */
async function work(client) {
  for (let i = 1; i <= 40; i++) await client.query('SELECT due FROM port_call WHERE vessel = $1', [i]);
  for (let i = 1; i <= 25; i++)
    await client.query({
      name: 'cargo of',
      text: 'SELECT tonnes\n  FROM cargo\n WHERE vessel = $1',
      values: [i]
    });
  for (let i = 1; i <= 10; i++) await client.query(`SELECT id FROM tide WHERE level > ${i - 5}`);
  for (let i = 1; i <= 40; i++)
    await client.query('SELECT due, pg_sleep($1) FROM port_call WHERE id = $2', [0.02, i]);
  await client.query("SELECT 'duration: 9.9 ms  statement: x, y', pg_sleep(0.03)");
  await client.query('SELECT no_such FROM vessel').catch(() => undefined);
  await client.query('BEGIN');
  for (let i = 1; i <= 15; i++) await client.query('UPDATE berth SET claimed = now() WHERE id = $1', [i]);
  await client.query('COMMIT');
}

/** Settings of each log: what is in common use. */
const RUNS = {
  'pg-stderr-default': { log_line_prefix: '%m [%p] %q%u@%d ' },
  'pg-stderr-host': { log_line_prefix: '%t:%r:%u@%d:[%p]: ' },
  'pg-stderr-time-alone': { log_line_prefix: '[%m] ' },
  'pg-stderr-epoch': { log_line_prefix: '%n [%p] %u@%d ' },
  'pg-stderr-zone': { log_line_prefix: '%m [%p] ', log_timezone: 'Europe/Berlin' },
  'pg-stderr-explained': { log_line_prefix: '%m [%p] ', 'auto_explain.log_min_duration': '20ms' },
  'pg-csvlog': { log_destination: 'csvlog' },
  'pg-jsonlog': { log_destination: 'jsonlog' }
};

const admin = new pg.Client(LOGIN);
await admin.connect();
const one = async (sql) => Object.values((await admin.query(sql)).rows[0])[0];
await admin.query('CREATE EXTENSION IF NOT EXISTS pg_stat_statements');
const folder = path.resolve(await one('SHOW data_directory'), 'log');
const base = {
  logging_collector: 'on',
  log_directory: 'log',
  log_min_duration_statement: '-1',
  log_duration: 'off',
  log_timezone: 'Etc/UTC',
  'auto_explain.log_min_duration': '-1',
  log_destination: 'stderr'
};
for (const [name, settings] of Object.entries(RUNS)) {
  for (const ending of ['log', 'csv', 'json'])
    rmSync(path.join(folder, `${name}.${ending}`), { force: true });
  for (const [key, value] of Object.entries({
    ...base,
    ...settings,
    log_filename: `${name}.log`,
    log_min_duration_statement: '0'
  })) {
    if (key === 'logging_collector') continue;
    await admin.query(`ALTER SYSTEM SET ${key} = '${value}'`);
  }
  await admin.query('SELECT pg_reload_conf()');
  await admin.query('SELECT pg_rotate_logfile()');
  await pause(1000);
  // This connection writes nothing of its own meanwhile.
  await admin.query('SET log_min_duration_statement = -1');
  await admin.query('SET "auto_explain.log_min_duration" = \'-1\'');
  await admin.query('SELECT pg_stat_statements_reset()');
  const client = new pg.Client(LOGIN);
  await client.connect();
  await work(client);
  await client.end();
  await pause(500);
  const ending = { csvlog: 'csv', jsonlog: 'json' }[settings.log_destination] ?? 'log';
  save(`${name}.${ending}`, readFileSync(path.join(folder, `${name}.${ending}`)));
  const { rows } = await admin.query(
    "SELECT query, calls::int AS calls, total_exec_time AS ms, rows::int AS rows FROM pg_stat_statements WHERE query NOT LIKE '%pg_stat_statements%' ORDER BY query"
  );
  writeFileSync(path.join(HERE, `${name}.counted.json`), `${JSON.stringify(rows, null, 1)}\n`);
}
await admin.query('ALTER SYSTEM RESET ALL');
await admin.query('ALTER SYSTEM SET shared_preload_libraries = pg_stat_statements, auto_explain');
await admin.query('ALTER SYSTEM SET logging_collector = on');
await admin.query('SELECT pg_reload_conf()');
await admin.end();

const maria = await mysql.createConnection(LOGIN);
rmSync('/tmp/quay-slow.log', { force: true });
await maria.query("SET GLOBAL slow_query_log_file = '/tmp/quay-slow.log'");
await maria.query('SET GLOBAL slow_query_log = 1');
await maria.query('SET GLOBAL long_query_time = 0');
const session = await mysql.createConnection(LOGIN);
for (let i = 0; i < 20; i++) await session.query('INSERT INTO cargo (vessel, tonnes) VALUES (?, ?)', [i, i]);
for (let i = 0; i < 12; i++) await session.execute('SELECT tonnes FROM cargo WHERE vessel = ?', [i]);
await session.query('CREATE DATABASE IF NOT EXISTS other');
await session.query('USE other');
await session.query('SELECT SLEEP(0.02)');
await session.end();
await maria.query('SET GLOBAL slow_query_log = 0');
await maria.end();
await pause(300);
save('mariadb-slow.log', readFileSync('/tmp/quay-slow.log'));
