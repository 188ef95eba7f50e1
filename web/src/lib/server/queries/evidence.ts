import {
  isEvidenceKind,
  readSummary,
  type EvidenceKind,
  type FormatOf,
  type SummaryOf
} from '@tromix/core/evidence/kinds';
import { select } from '../db/reader';

interface EvidenceRow {
  id: string;
  name: string;
  bytes: number;
  service: string;
  host: string;
  release: string;
  pid: number;
  startedAtUs: number | null;
  durationNs: number;
  receivedAtUs: number;
  /** Dumps of one process have the same; '' for what stands alone. */
  series: string;
}

/** A piece of evidence as lists show it. */
export type EvidenceItem<K extends EvidenceKind = EvidenceKind> = {
  [Of in K]: EvidenceRow & {
    kind: Of;
    format: FormatOf<Of>;
    /** What was found in it; null where that is damaged, or not known yet. */
    summary: SummaryOf<Of> | null;
  };
}[K];

interface Stored extends EvidenceRow {
  kind: string;
  format: string;
  summary: string;
}

const COLUMNS = `id, kind, format, name, bytes, service, host, release, pid, started_at_us AS startedAtUs, duration_ns AS durationNs, received_at_us AS receivedAtUs, series, summary`;
/** The newest are listed. */
export const MOST_LISTED = 1000;

/** Evidence of every kind, the newest first. */
export async function allEvidence(most: number): Promise<EvidenceItem[]> {
  const rows = await select<Stored>(
    `SELECT ${COLUMNS} FROM evidence ORDER BY coalesce(started_at_us, received_at_us) DESC LIMIT ?`,
    [most]
  );
  return rows.flatMap(itemsOf);
}

/** Evidence of one kind, the newest first. */
export async function evidenceOf<K extends EvidenceKind>(
  kind: K,
  most = MOST_LISTED
): Promise<EvidenceItem<K>[]> {
  const rows = await select<Stored>(
    `SELECT ${COLUMNS} FROM evidence WHERE kind = ? ORDER BY coalesce(started_at_us, received_at_us) DESC LIMIT ?`,
    [kind, most]
  );
  return rows.flatMap(itemsOf) as EvidenceItem<K>[];
}

export async function evidenceItem(id: string): Promise<EvidenceItem | null> {
  const rows = await select<Stored>(`SELECT ${COLUMNS} FROM evidence WHERE id = ?`, [id]);
  return rows.flatMap(itemsOf)[0] ?? null;
}

/** A piece of evidence that is of a kind; null for none, and for one of another kind. */
export async function itemOfKind<K extends EvidenceKind>(
  id: string,
  kind: K
): Promise<EvidenceItem<K> | null> {
  const item = await evidenceItem(id);
  return item?.kind === kind ? (item as EvidenceItem<K>) : null;
}

/** All evidence of one series and format, by time; of what stands alone, itself. Dumps of different runtimes cannot be held against each other. */
export async function evidenceSeries<K extends EvidenceKind>(
  one: EvidenceItem<K>
): Promise<EvidenceItem<K>[]> {
  if (one.series === '') return [one];
  const rows = await select<Stored>(
    `SELECT ${COLUMNS} FROM evidence WHERE series = ? AND kind = ? AND format = ? ORDER BY started_at_us, received_at_us LIMIT 200`,
    [one.series, one.kind, one.format]
  );
  return rows.flatMap(itemsOf) as EvidenceItem<K>[];
}

/** None for a kind that this release does not know. */
function itemsOf({ kind, summary, ...row }: Stored): EvidenceItem[] {
  return isEvidenceKind(kind) ? [{ ...row, kind, summary: readSummary(kind, summary) } as EvidenceItem] : [];
}
