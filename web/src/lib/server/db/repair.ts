import type { Client } from '@libsql/client';
import { LAST_US, MAX_DURATION_NS } from '@tromix/core/trace/time-range';

/**
 * Rows that earlier versions took in and that cannot be read safely: texts that are no UTF-8, at which the client ends the process, and times
 * beyond the year 2200. Looked for once in each database.
 */
const DONE = 'rows-repaired';

/** Texts that are read row by row, by table. */
const TEXTS: Record<string, string[]> = {
  services: ['name'],
  hosts: ['name'],
  releases: ['name'],
  endpoints: ['name'],
  resources: ['key', 'attributes'],
  call_groups: ['fingerprint', 'verb'],
  finding_subjects: ['subject'],
  origins: ['name'],
  attribute_values: ['name', 'value'],
  spans: ['name', 'status_message', 'origin'],
  findings: ['subject'],
  finding_marks: ['service', 'endpoint', 'subject', 'reason'],
  logs: ['body'],
  evidence: ['name', 'service', 'host', 'release', 'summary'],
  recordings: ['message', 'service', 'host', 'release']
};
/** In these a text may be there only once: each that is repaired gets a number. */
const UNIQUE = new Set([
  'services',
  'hosts',
  'releases',
  'endpoints',
  'resources',
  'call_groups',
  'finding_subjects',
  'origins',
  'attribute_values'
]);

const quoted = (name: string): string => `"${name}"`;

/** SQLite reads what is no character as U+FFFD: such a text matches, though the bytes of U+FFFD are not in it. */
const isBad = (column: string): string =>
  `${column} GLOB '*' || char(65533) || '*' AND instr(CAST(${column} AS BLOB), x'EFBFBD') = 0`;

const badTime = (column: string): string => `${column} NOT BETWEEN 0 AND ${LAST_US}`;

/** Repairs what is unreadable, once. The client is the one writer's. */
export async function repairRows(client: Client): Promise<void> {
  const done = await client.execute({ sql: 'SELECT 1 FROM settings WHERE key = ?', args: [DONE] });
  if (done.rows.length > 0) return;
  const statements = Object.entries(TEXTS).flatMap(([table, columns]) =>
    columns.map((column) => {
      const text = UNIQUE.has(table) ? "'(unreadable text ' || id || ')'" : "'(unreadable text)'";
      return `UPDATE ${table} SET ${quoted(column)} = ${text} WHERE ${isBad(quoted(column))}`;
    })
  );
  statements.push(
    `DELETE FROM spans WHERE ${badTime('start_us')} OR duration_ns NOT BETWEEN 0 AND ${MAX_DURATION_NS}`,
    `DELETE FROM request_parts WHERE trace_id IN (SELECT trace_id FROM requests WHERE ${badTime('start_us')})`,
    `DELETE FROM requests WHERE ${badTime('start_us')}`,
    `DELETE FROM findings WHERE ${badTime('start_us')}`,
    `DELETE FROM logs WHERE ${badTime('at_us')}`,
    `UPDATE releases SET first_us = 0 WHERE ${badTime('first_us')}`,
    `UPDATE resources SET first_us = NULL WHERE ${badTime('first_us')}`,
    `UPDATE evidence SET started_at_us = NULL WHERE ${badTime('started_at_us')}`,
    `UPDATE evidence SET duration_ns = 0 WHERE duration_ns NOT BETWEEN 0 AND ${MAX_DURATION_NS}`,
    `INSERT OR REPLACE INTO settings (key, value) VALUES ('${DONE}', '1')`
  );
  await client.batch(statements, 'write');
}
