import type { Warning } from '@tromix/core/formats/evidence-error';
import { select } from '../db/reader';

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
  samples: number;
  busyNs: number;
  idleNs: number;
  warnings: Warning[];
}

interface Stored extends Omit<EvidenceItem, 'samples' | 'busyNs' | 'idleNs' | 'warnings'> {
  summary: string;
}

const COLUMNS = `id, kind, format, name, bytes, service, host, release, pid, started_at_us AS startedAtUs, duration_ns AS durationNs, received_at_us AS receivedAtUs, summary`;

export async function evidenceList(kind = ''): Promise<EvidenceItem[]> {
  const rows = await select<Stored>(
    `SELECT ${COLUMNS} FROM evidence WHERE ? = '' OR kind = ? ORDER BY coalesce(started_at_us, received_at_us) DESC LIMIT 1000`,
    [kind, kind]
  );
  return rows.map(item);
}

export async function evidenceItem(id: string): Promise<EvidenceItem | null> {
  const [row] = await select<Stored>(`SELECT ${COLUMNS} FROM evidence WHERE id = ?`, [id]);
  return row ? item(row) : null;
}

function item({ summary, ...row }: Stored): EvidenceItem {
  const { samples = 0, busyNs = 0, idleNs = 0, warnings = [] } = JSON.parse(summary) as Partial<EvidenceItem>;
  return { ...row, samples, busyNs, idleNs, warnings };
}
