import { formatDuration } from '@tromix/core/text/format';
import { attributeOf, REQUEST_COLUMNS } from '$lib/request-choices';
import type { RequestGroup, RequestRow } from '$lib/server/queries/requests';
import { exactTime } from '../kit/time';
import type { Column } from '../tables/columns';
import { countColumn, durationColumn, rareColumn, shareColumn, textColumn } from '../tables/column-makers';

/** The columns of the list, by name. Those without a text are drawn by `RequestCell`. */
export const COLUMNS: Record<(typeof REQUEST_COLUMNS)[number], Column<RequestRow>> = {
  at: { key: 'at', title: 'at', width: 116, value: (row) => new Date(row.startUs / 1000).toISOString() },
  service: textColumn('service', 'service', ({ service }) => service, { width: 80 }),
  endpoint: {
    key: 'endpoint',
    title: 'endpoint',
    width: 130,
    grows: true,
    wants: 160,
    value: (row) => row.endpoint
  },
  host: textColumn('host', 'host', ({ host }) => host, { width: 64, gives: 3 }),
  release: { key: 'release', title: 'release', width: 62, gives: 2, value: (row) => row.release },
  calls: countColumn('calls', 'calls', (row) => row.calls, { width: 56, gives: 5 }),
  spans: countColumn('spans', 'spans', (row) => row.spans, { width: 56 }),
  findings: {
    key: 'findings',
    title: 'findings',
    width: 72,
    gives: 4,
    right: true,
    value: (row) => row.findings
  },
  ledger: { key: 'ledger', title: 'where it goes', about: 'Ledger of the request', width: 102, gives: 1 },
  duration: { key: 'duration', title: 'duration', width: 88, right: true, value: (row) => row.durationNs }
};

/** What a file tells besides. */
export const ALSO_IN_FILES: Column<RequestRow>[] = [
  { key: 'ledger', title: 'ledger', width: 0, value: (row) => JSON.stringify(row.ledger) },
  { key: 'failed', title: 'failed', width: 0, value: (row) => (row.failed ? 1 : 0) },
  { key: 'traceId', title: 'trace', width: 0, value: (row) => row.traceId },
  { key: 'spanId', title: 'span', width: 0, value: (row) => row.spanId }
];

const isColumn = (name: string): name is keyof typeof COLUMNS => Object.hasOwn(COLUMNS, name);

/** The names asked for that are columns or attributes. */
export const knownNames = (asked: readonly string[]): string[] =>
  asked.filter((name) => isColumn(name) || attributeOf(name));

/** Columns by name; an attribute's values come in the order in which attributes are asked for. */
export function columnsOf(names: readonly string[]): Column<RequestRow>[] {
  const attributes = names.map(attributeOf).filter((name) => name !== null);
  return names.map((name): Column<RequestRow> => {
    const attribute = attributeOf(name);
    if (attribute === null) return COLUMNS[name as keyof typeof COLUMNS];
    const at = attributes.indexOf(attribute);
    return { key: name, title: attribute, width: 96, value: (row) => row.attributes[at] };
  });
}

/** The names with one more or one fewer, in the order of the columns; never none. */
export function toggledNames(names: readonly string[], name: string, attributes: readonly string[]): string {
  const all = [...REQUEST_COLUMNS, ...attributes.map((one) => `attr:${one}`)];
  const next = names.includes(name) ? names.filter((one) => one !== name) : [...names, name];
  return all.filter((one) => next.includes(one)).join(',') || 'endpoint';
}

/** A request as its link is called. */
export const linkNameOf = (row: RequestRow): string =>
  `${exactTime(row.startUs / 1000)} ${row.service} ${row.endpoint} ${formatDuration(row.durationNs)}${row.failed ? ' failed' : ''}`;

export const GROUP_COLUMNS: Column<RequestGroup>[] = [
  {
    key: 'value',
    title: 'value',
    width: 140,
    grows: true,
    value: ({ value }) => value,
    text: ({ value }) => value || '(none)'
  },
  countColumn('count', 'requests', ({ count }) => count, { width: 82 }),
  shareColumn('share', 'of the time', ({ share }) => share, { width: 92 }),
  rareColumn('failed', 'failed', ({ failed }) => failed),
  durationColumn('mean', 'mean', ({ meanNs }) => meanNs, { width: 72 }),
  durationColumn('p50', 'median', ({ p50Ns }) => p50Ns, { width: 72 }),
  durationColumn('p95', 'p95', ({ p95Ns }) => p95Ns, { width: 72 }),
  durationColumn('p99', 'p99', ({ p99Ns }) => p99Ns, { width: 72 }),
  durationColumn('slowest', 'slowest', ({ slowestNs }) => slowestNs, { width: 72 })
];
