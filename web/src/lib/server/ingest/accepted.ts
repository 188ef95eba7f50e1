import type { Warning } from '@tromix/core/formats/evidence-error';

export type Encoding = 'json' | 'protobuf';

/** Traces of a batch that are older than requests are kept. */
export interface OldTraces {
  traces: number;
  /** Names the batch, so that they can be kept. */
  source: string;
}

/** What became of a batch. */
export interface Accepted {
  spans: number;
  rejected: { reason: string; count: number }[];
  warnings: Warning[];
  old: OldTraces | null;
  /** When the first and the last of its spans begin, epoch microseconds; absent where there are none. */
  times?: { fromUs: number; toUs: number };
}

/** So much is waiting to be stored that a batch is turned away for the moment. */
export class Busy extends Error {
  constructor() {
    super('More spans arrive than can be stored just now. Send the batch again a little later.');
  }
}
