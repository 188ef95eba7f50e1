import { decodeLogsJson, decodeLogsProtobuf } from '@tromix/core/formats/otlp/logs';
import { decodeMetricsJson, decodeMetricsProtobuf } from '@tromix/core/formats/otlp/metrics';
import { TIME_RANGE } from '@tromix/core/trace/time-range';
import { nameOf } from './body';
import { MAX_SERIES } from './counters';
import type { Accepted, Encoding } from './accepted';
import type { Writer } from './writer';

/** A body as it came. */
export interface SentBody {
  body: Uint8Array;
  encoding: Encoding;
  gzip: boolean;
  /** Moves log records in time, as recordings are; 0 where they are of now. */
  shiftUs?: number;
}

/** A signal of OTLP/HTTP: what its answer calls what was turned away, and how the writer takes it. */
interface Signal {
  rejectedName: 'rejectedSpans' | 'rejectedLogRecords' | 'rejectedDataPoints';
  take: (writer: Writer, sent: SentBody) => Promise<Accepted>;
}

const textOf = (content: Uint8Array): string => new TextDecoder().decode(content);

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
  /** Kept is the memory of processes. */
  metrics: {
    rejectedName: 'rejectedDataPoints',
    take: async (writer, { body, encoding, gzip }) => {
      const { values, others, outOfRange } = writer.decoded(body, gzip, nameOf(body), (content) =>
        encoding === 'json' ? decodeMetricsJson(textOf(content)) : decodeMetricsProtobuf(content)
      );
      const beyond = values.length > 0 ? await writer.addCounters(values) : 0;
      const rejected = [
        {
          reason: `its time is outside ${TIME_RANGE}, or its value is not a number of bytes`,
          count: outOfRange
        },
        { reason: 'of metrics, only the memory of processes is kept', count: others },
        { reason: `more than ${MAX_SERIES} series of counters are not kept`, count: beyond }
      ].filter(({ count }) => count > 0);
      return { spans: values.length, rejected, warnings: [], old: null };
    }
  }
} satisfies Record<string, Signal>;
export type SignalName = keyof typeof SIGNALS;
