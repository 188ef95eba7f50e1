import type { Warning } from '@tromix/core/formats/evidence-error';
import type { Profile } from '@tromix/core/profile/model';
import type { ThreadsSummary } from '@tromix/core/threads/summary';
import { select } from '../db/reader';
import type { HeapSummary } from '../heap/indexer.worker';

export interface EvidenceItem {
  id: string;
  kind: string;
  format: string;
  name: string;
  bytes: number;
  service: string;
  host: string;
  release: string;
  pid: number;
  startedAtUs: number | null;
  durationNs: number;
  receivedAtUs: number;
  /** What a profile measures, and in what. */
  valueType: Profile['valueType'];
  unit: Profile['unit'];
  samples: number;
  /** All weight of a profile but idle; time of the statements of a log. */
  sum: number;
  warnings: Warning[];
  /** Dumps of one process have the same; '' for what stands alone. */
  series: string;
  /** What thread dumps tell; null for others. */
  threads: ThreadsSummary | null;
  /** What a heap dump tells, once it is indexed; null for others and before. */
  heap: HeapSummary | null;
}

type Summary = Pick<EvidenceItem, 'valueType' | 'unit' | 'samples' | 'sum' | 'warnings' | 'threads' | 'heap'>;

interface Stored extends Omit<EvidenceItem, keyof Summary> {
  summary: string;
}

const COLUMNS = `id, kind, format, name, bytes, service, host, release, pid, started_at_us AS startedAtUs, duration_ns AS durationNs, received_at_us AS receivedAtUs, series, summary`;

/** The newest are listed. */
export const MOST_LISTED = 1000;

export async function evidenceList(kind = ''): Promise<EvidenceItem[]> {
  const rows = await select<Stored>(
    `SELECT ${COLUMNS} FROM evidence WHERE ? = '' OR kind = ? ORDER BY coalesce(started_at_us, received_at_us) DESC LIMIT ${MOST_LISTED}`,
    [kind, kind]
  );
  return rows.map(item);
}

export async function evidenceItem(id: string): Promise<EvidenceItem | null> {
  const [row] = await select<Stored>(`SELECT ${COLUMNS} FROM evidence WHERE id = ?`, [id]);
  return row ? item(row) : null;
}

/** All evidence of one series and format, by time; of what stands alone, itself. Dumps of different runtimes cannot be held against each other. */
export async function evidenceSeries(one: EvidenceItem): Promise<EvidenceItem[]> {
  if (one.series === '') return [one];
  const rows = await select<Stored>(
    `SELECT ${COLUMNS} FROM evidence WHERE series = ? AND kind = ? AND format = ? ORDER BY started_at_us, received_at_us LIMIT 200`,
    [one.series, one.kind, one.format]
  );
  return rows.map(item);
}

/** A summary that is damaged says nothing; the rest of the list is not lost for it. */
function parsed(summary: string): object {
  try {
    return JSON.parse(summary) as object;
  } catch {
    return {};
  }
}

function item({ summary, ...row }: Stored): EvidenceItem {
  // Evidence recorded by the first release tells CPU time as `busyNs`.
  const stored = parsed(summary) as Partial<Omit<Summary, 'threads' | 'heap'>> & { busyNs?: number };
  const { valueType = 'cpu', unit = 'nanoseconds', warnings = [] } = stored;
  const threads =
    row.kind === 'threads' && 'threads' in stored ? (stored as unknown as ThreadsSummary) : null;
  const heap = row.kind === 'heap' && 'objects' in stored ? (stored as unknown as HeapSummary) : null;
  return {
    ...row,
    valueType,
    unit,
    warnings,
    threads,
    heap,
    samples: threads ? threads.threads : (heap?.objects ?? stored.samples ?? 0),
    sum: stored.sum ?? stored.busyNs ?? 0
  };
}
