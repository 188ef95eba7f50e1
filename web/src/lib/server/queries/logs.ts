import type { Attributes } from '@tromix/core/trace/span';
import { attributesFrom } from '$lib/stored-spans';
import type { Scope, TimeWindow } from '$lib/scope';
import { select } from '../db/reader';
import { namesFilter } from './filter';

/** What is sought among log records. */
export interface LogSearch {
  /** Stands in the text or the attributes, in letters of any case; '' for any. */
  text: string;
  /** OTLP severity number from which records are listed; 0 for all. */
  severity: number;
  /** Only those that name no trace. */
  outside: boolean;
}

/** A log record with the process that wrote it. */
export interface ListedLog {
  id: number;
  atUs: number;
  atNs: number;
  severity: number;
  body: string;
  traceId: string;
  spanId: string;
  /** The outermost request of its trace; '' where none is known. */
  requestSpanId: string;
  service: string;
  host: string;
  release: string;
  pid: number;
}

export interface LogList {
  records: ListedLog[];
  /** Whether more were found than are listed. */
  more: boolean;
  /** Records of the window that were looked at, the newest; where there are more the rest was not. */
  looked: number;
  isAll: boolean;
}

/** Records that are listed, the newest. */
const USUAL_RECORDS = 1000;
/** Records of a window that are searched, the newest: so many take a fraction of a second. */
const MAX_SEARCHED = 100_000;

const COLUMNS = `l.id AS id, l.at_us AS atUs, l.at_ns AS atNs, l.severity AS severity, l.body AS body, l.trace_id AS traceId, l.span_id AS spanId,
  coalesce((SELECT q.span_id FROM requests q WHERE q.trace_id = l.trace_id AND l.trace_id <> '' ORDER BY q.start_us LIMIT 1), '') AS requestSpanId,
  coalesce(s.name, '') AS service, coalesce(h.name, '') AS host, coalesce(v.name, '') AS release, coalesce(r.pid, 0) AS pid`;
const JOINS = `LEFT JOIN resources r ON r.id = l.resource_id LEFT JOIN services s ON s.id = r.service_id
  LEFT JOIN hosts h ON h.id = r.host_id LEFT JOIN releases v ON v.id = r.release_id`;

/** The newest log records of a scope, newest first. Of its names those of processes count: a record is of no endpoint. */
export async function logsOf(
  scope: Scope,
  window: TimeWindow,
  search: LogSearch,
  most = USUAL_RECORDS
): Promise<LogList> {
  const names = namesFilter({ ...scope, endpoint: '' }, 'r', 'release');
  const times = [window.fromUs, window.toUs];
  const within = `FROM logs WHERE at_us >= ? AND at_us < ?`;
  const text = search.text.trim().toLowerCase();
  const [records, [{ looked }]] = await Promise.all([
    select<ListedLog>(
      `SELECT ${COLUMNS} FROM (SELECT * ${within} ORDER BY at_us DESC LIMIT ${MAX_SEARCHED}) l ${JOINS}
        WHERE l.severity >= ?${search.outside ? " AND l.trace_id = ''" : ''}
          ${text ? 'AND (instr(lower(l.body), ?) > 0 OR instr(lower(l.attributes), ?) > 0)' : ''}${names.sql}
        ORDER BY l.at_us DESC, l.at_ns DESC, l.id DESC LIMIT ${most + 1}`,
      [...times, search.severity, ...(text ? [text, text] : []), ...names.args]
    ),
    select<{ looked: number }>(
      `SELECT count(*) AS looked FROM (SELECT 1 ${within} LIMIT ${MAX_SEARCHED + 1})`,
      times
    )
  ]);
  return {
    records: records.slice(0, most),
    more: records.length > most,
    looked: Math.min(looked, MAX_SEARCHED),
    isAll: looked <= MAX_SEARCHED
  };
}

/** One log record with its attributes; null where it is kept no more. */
export async function logOf(id: number): Promise<(ListedLog & { attributes: Attributes }) | null> {
  const [found] = await select<ListedLog & { attributes: string }>(
    `SELECT ${COLUMNS}, l.attributes AS attributes FROM logs l ${JOINS} WHERE l.id = ?`,
    [id]
  );
  return found ? { ...found, attributes: attributesFrom(found.attributes) } : null;
}
