import { gunzipSync, gzipSync } from 'node:zlib';
import type { InStatement } from '@libsql/client';
import type { ToldLoad } from '@tromix/core/pages/merge-parts';
import type { PageLoad } from '@tromix/core/pages/page-load';
import { loadScore, VITALS } from '@tromix/core/pages/vitals';
import { bulkInsert } from '../../db/bulk';
import type { NamedLoad } from './page-names';

/** A load as bytes. */
export const packLoad = (load: PageLoad): Uint8Array => gzipSync(JSON.stringify(load));
export const unpackLoad = (data: Uint8Array): PageLoad =>
  JSON.parse(gunzipSync(data).toString('utf8')) as PageLoad;

const COLUMNS = [
  'trace_id',
  'page_id',
  'audience_id',
  'start_us',
  'received_us',
  'part',
  'session',
  'source',
  'navigation',
  ...VITALS,
  'score',
  'resources',
  'tasks',
  'steps',
  'errors',
  'profile',
  'data'
];

/** The row of a load, in place of the one it had. @param profile the profile it made of itself; '' for none */
export const insertLoad = ({ load, part }: ToldLoad, named: NamedLoad, profile: string): InStatement => ({
  sql: `INSERT OR REPLACE INTO page_loads (${COLUMNS.join(', ')}) VALUES (${COLUMNS.map(() => '?').join(', ')})`,
  args: [
    load.traceId,
    named.pageId,
    named.audienceId,
    load.atUs,
    Date.now() * 1000,
    part,
    load.session,
    load.source,
    load.navigation,
    ...VITALS.map((vital) => load.vitals[vital] ?? null),
    loadScore(load.vitals),
    load.resources.length,
    load.tasks.length,
    load.steps.length,
    load.errors.length,
    profile,
    packLoad(load)
  ]
});

/** Which requests of servers some loads asked for. */
export function insertAsks(loads: readonly PageLoad[]): InStatement[] {
  const rows = loads.flatMap(({ traceId, resources }) =>
    resources.filter((one) => one.traceId !== '').map((one) => [one.traceId, one.spanId, traceId])
  );
  return rows.length === 0
    ? []
    : [bulkInsert('INSERT OR IGNORE', 'page_asks', ['trace_id', 'span_id', 'load_id'], rows)];
}
