import { groupBy } from '@tromix/core/group-by';
import { scopeWindow, type Scope } from '$lib/scope';
import { select } from '../../db/reader';
import { requestsFilter } from '../filter';

/** A header of calls, and what they carried in it. */
export interface CallHeader {
  of: 'request' | 'response';
  name: string;
  /** The most frequent values. */
  values: { value: string; calls: number }[];
  /** How many different values there are. */
  different: number;
}

export interface CallHeaders {
  headers: CallHeader[];
  /** Calls that were looked at: the latest that are kept. */
  looked: number;
}

/** Requests whose calls are looked at, and calls of them. */
const MOST_REQUESTS = 40;
const MOST_CALLS = 400;
const MOST_VALUES = 4;
/** As OpenTelemetry's semantic conventions for HTTP name them. */
const HEADER = /^http\.(request|response)\.header\.(.+)$/;

/** Headers that the latest kept calls of a group recorded. */
export async function headersOf(scope: Scope, groupId: number, nowMs: number): Promise<CallHeaders> {
  const filter = requestsFilter({ ...scope, group: groupId }, scopeWindow(scope, nowMs));
  const rows = await select<{ attributes: string }>(
    `SELECT s.attributes AS attributes FROM (SELECT DISTINCT trace_id FROM (SELECT r.trace_id FROM requests r WHERE ${filter.sql} ORDER BY r.start_us DESC LIMIT ${MOST_REQUESTS})) r
      JOIN spans s ON s.trace_id = r.trace_id WHERE s.call_group_id = ? LIMIT ${MOST_CALLS}`,
    [...filter.args, groupId]
  );
  const told = rows.flatMap(({ attributes }) =>
    (JSON.parse(attributes) as [string, unknown][]).flatMap(headerOf)
  );
  const headers = [...groupBy(told, ({ of, name }) => `${of} ${name}`).values()].map((list): CallHeader => {
    const byValue = [...groupBy(list, ({ value }) => value)].map(([value, { length: calls }]) => ({
      value,
      calls
    }));
    return {
      of: list[0].of,
      name: list[0].name,
      values: byValue.sort((a, b) => b.calls - a.calls).slice(0, MOST_VALUES),
      different: byValue.length
    };
  });
  return {
    headers: headers.sort((a, b) => (`${a.of} ${a.name}` < `${b.of} ${b.name}` ? -1 : 1)),
    looked: rows.length
  };
}

function headerOf([name, value]: [string, unknown]): { of: CallHeader['of']; name: string; value: string }[] {
  const found = HEADER.exec(name);
  if (!found) return [];
  const [, of, header] = found;
  const text = Array.isArray(value) ? value.join(', ') : String(value);
  return [{ of: of as CallHeader['of'], name: header.replaceAll('_', '-'), value: text }];
}
