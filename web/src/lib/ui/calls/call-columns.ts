import { formatBytes, formatCount, formatDuration, formatShare, plural } from '@tromix/core/text/format';
import type { CallFigures } from '$lib/server/queries/calls';
import type { Column } from '$lib/ui/tables/columns';

type Row = CallFigures & { share: number };

/** The five ranks, the same wherever calls are listed: total time, calls, most calls in one request, mean, p95. */
export function rankColumns<R extends Row>(): Column<R>[] {
  return [
    {
      key: 'share',
      title: 'share',
      about: 'Of the time of all calls listed here; calls side by side count each',
      width: 58,
      right: true,
      value: ({ share }) => share,
      text: ({ share }) => formatShare(share)
    },
    {
      key: 'total',
      title: 'total',
      width: 76,
      right: true,
      value: ({ totalNs }) => totalNs,
      text: ({ totalNs }) => formatDuration(totalNs)
    },
    {
      key: 'calls',
      title: 'calls',
      width: 72,
      right: true,
      value: ({ calls }) => calls,
      text: ({ calls }) => formatCount(calls)
    },
    {
      key: 'most',
      title: 'most in one',
      about: 'Most calls in one request',
      width: 84,
      right: true,
      value: ({ mostCalls }) => mostCalls,
      text: ({ mostCalls }) => formatCount(mostCalls)
    },
    {
      key: 'mean',
      title: 'mean',
      width: 74,
      right: true,
      value: ({ totalNs, calls }) => totalNs / calls,
      text: ({ totalNs, calls }) => formatDuration(totalNs / calls)
    },
    {
      key: 'p95',
      title: 'p95',
      about: 'Within 1 %',
      width: 74,
      right: true,
      value: ({ p95Ns }) => p95Ns,
      text: ({ p95Ns }) => formatDuration(p95Ns)
    }
  ];
}

/** Failed and retried calls, each only where there are any. */
export function failureColumns<R extends Row>(rows: readonly R[]): Column<R>[] {
  const columns: Column<R>[] = [
    {
      key: 'failed',
      title: 'failed',
      width: 60,
      right: true,
      value: ({ failed }) => failed,
      text: ({ failed }) => (failed > 0 ? formatCount(failed) : '')
    },
    {
      key: 'retried',
      title: 'retried',
      about: 'Made again after the same call had failed',
      width: 62,
      right: true,
      value: ({ retried }) => retried,
      text: ({ retried }) => (retried > 0 ? formatCount(retried) : '')
    }
  ];
  return columns.filter(({ value }) => rows.some((row) => Number(value?.(row)) > 0));
}

/** Rows of a query, bytes of a file or remote call, where they were recorded. */
export function sizeColumn<R extends Row>(): Column<R> {
  return {
    key: 'size',
    title: 'rows, bytes',
    about: 'Rows each query returned; bytes read and written in all',
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
