import { decodeLogsJson, decodeLogsProtobuf } from '@tromix/core/formats/otlp/logs';
import type { MetricBatch } from '@tromix/core/formats/otlp/metric-points';
import { decodeMetricsJson, decodeMetricsProtobuf } from '@tromix/core/formats/otlp/metrics';
import { nameOf } from './body';
import type { Accepted, Encoding } from './accepted';
import type { Writer } from './writer';

/** A body as it came. */
export interface SentBody {
  body: Uint8Array;
  encoding: Encoding;
  gzip: boolean;
  /** Moves log records and points of counters in time, as recordings are; 0 where they are of now. */
  shiftUs?: number;
}

/** A signal of OTLP/HTTP: what its answer calls what was turned away, and how the writer takes it. */
interface Signal {
  rejectedName: 'rejectedSpans' | 'rejectedLogRecords' | 'rejectedDataPoints';
  take: (writer: Writer, sent: SentBody) => Promise<Accepted>;
}

const textOf = (content: Uint8Array): string => new TextDecoder().decode(content);

function shiftPoints({ numbers, histograms }: MetricBatch, byMs: number): void {
  for (const point of [...numbers, ...histograms]) {
    point.atMs += byMs;
    if (point.startMs > 0) point.startMs += byMs;
  }
}

/** The signals that are received, by the last part of their address. A new one is added here, and nowhere else. */
export const SIGNALS = {
  traces: {
    rejectedName: 'rejectedSpans',
    take: (writer, { body, encoding, gzip }) => writer.ingest(body, encoding, gzip, 0, 'process')
  },
  logs: {
    rejectedName: 'rejectedLogRecords',
    take: async (writer, { body, encoding, gzip, shiftUs = 0 }) => {
      const { records, rejected } = writer.decoded(body, gzip, nameOf(body), (content) =>
        encoding === 'json' ? decodeLogsJson(textOf(content)) : decodeLogsProtobuf(content)
      );
      for (const record of records) record.atUs += shiftUs;
      await writer.addLogs(records);
      return { spans: records.length, rejected, warnings: [], old: null };
    }
  },
  metrics: {
    rejectedName: 'rejectedDataPoints',
    take: async (writer, { body, encoding, gzip, shiftUs = 0 }) => {
      const batch = writer.decoded(body, gzip, nameOf(body), (content) =>
        encoding === 'json' ? decodeMetricsJson(textOf(content)) : decodeMetricsProtobuf(content)
      );
      if (shiftUs !== 0) shiftPoints(batch, Math.round(shiftUs / 1000));
      const { taken, rejected } = await writer.addCounters(batch);
      return { spans: taken, rejected, warnings: [], old: null };
    }
  }
} satisfies Record<string, Signal>;
export type SignalName = keyof typeof SIGNALS;
