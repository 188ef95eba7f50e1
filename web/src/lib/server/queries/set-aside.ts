import type { AsideKind } from '../ingest/set-aside';
import { select } from '../db/reader';

/** Something that ended its thread and is not tried again by itself. */
export interface SetAsideItem {
  kind: AsideKind;
  id: string;
  name: string;
  reason: string;
  atUs: number;
}

/** What was set aside, the newest first. */
export const setAsideList = (): Promise<SetAsideItem[]> =>
  select<SetAsideItem>(
    'SELECT kind, id, name, reason, at_us AS atUs FROM set_aside WHERE aside = 1 ORDER BY at_us DESC LIMIT 200'
  );

/** Traces of one batch that came when they were older than requests are kept. */
export interface OldBatch {
  source: string;
  traces: number;
  receivedAtUs: number;
  /** 1: they stay. */
  keep: number;
}

/** Batches of old traces, the newest first. */
export const oldBatches = (): Promise<OldBatch[]> =>
  select<OldBatch>(
    `SELECT source, count(*) AS traces, max(received_at_us) AS receivedAtUs, min(keep) AS keep FROM old_traces
      GROUP BY source ORDER BY receivedAtUs DESC LIMIT 50`
  );
