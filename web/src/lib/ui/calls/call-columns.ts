import { formatBytes, plural } from '@tromix/core/text/format';
import type { CallFigures } from '$lib/server/queries/calls/call-points';
import { countColumn, durationColumn, rareColumn, shareColumn } from '$lib/ui/tables/column-makers';
import type { Column } from '$lib/ui/tables/columns';

type Row = CallFigures & { share: number };

/** The five ranks, the same wherever calls are listed: total time, calls, most calls in one request, mean, p95. */
export function rankColumns<R extends Row>(): Column<R>[] {
  return [
    shareColumn('share', 'share', ({ share }) => share, {
      width: 58,
      gives: 2,
      about: 'Of the time of all calls listed here; calls side by side count each'
    }),
    durationColumn('total', 'total', ({ totalNs }) => totalNs, { width: 76 }),
    countColumn('calls', 'calls', ({ calls }) => calls, { width: 72 }),
    countColumn('most', 'most in one', ({ mostCalls }) => mostCalls, { about: 'Most calls in one request' }),
    durationColumn('mean', 'mean', ({ totalNs, calls }) => totalNs / calls, { width: 74, gives: 1 }),
    durationColumn('p95', 'p95', ({ p95Ns }) => p95Ns, { width: 74, about: 'Within 1 %' }),
    durationColumn('slowest', 'slowest', ({ slowestNs }) => slowestNs, { width: 74, gives: 3 })
  ];
}

/** Failed and retried calls, each only where there are any. */
export function failureColumns<R extends Row>(rows: readonly R[]): Column<R>[] {
  const columns: Column<R>[] = [
    rareColumn('failed', 'failed', ({ failed }) => failed, { width: 60 }),
    rareColumn('retried', 'retried', ({ retried }) => retried, {
      width: 62,
      about: 'Made again after the same call had failed'
    })
  ];
  return columns.filter(({ value }) => rows.some((row) => Number(value?.(row)) > 0));
}

/** Rows of a query, bytes of a file or remote call, where they were recorded. */
export function sizeColumn<R extends Row>(): Column<R> {
  return {
    key: 'size',
    title: 'rows, bytes',
    about: 'Rows each query returned; bytes read and written in total',
    width: 94,
    right: true,
    value: ({ rows, rowsKnown, bytesRead, bytesWritten }) =>
      rowsKnown > 0 ? rows / rowsKnown : bytesRead + bytesWritten,
    text: sizeText
  };
}

export function sizeText({ rows, rowsKnown, bytesRead, bytesWritten }: Row): string {
  if (rowsKnown > 0) return plural(Number((rows / rowsKnown).toPrecision(3)), 'row');
  const parts = [
    bytesRead > 0 ? `↓ ${formatBytes(bytesRead)}` : '',
    bytesWritten > 0 ? `↑ ${formatBytes(bytesWritten)}` : ''
  ];
  return parts.filter(Boolean).join(' ');
}
