import type { FailureIdentity } from '@tromix/core/failures/identity';
import type { StatementLog } from '@tromix/core/calls/statement-log/model';
import type { EvidenceKind, FormatOf, SummaryOf } from '@tromix/core/evidence/kinds';
import type { Warning } from '@tromix/core/formats/evidence-error';
import type { PageLoad } from '@tromix/core/pages/page-load';
import type { StoredFile } from './stored-file';
import type { TraceFormat } from '@tromix/core/formats/otlp/recognise';

/** What the sender knows of a file beside its content. */
export interface EvidenceLabel {
  name: string;
  service: string;
  host: string;
  release: string;
  pid: number;
  startedAtUs: number | null;
  /** It goes by itself after so many days; undefined where it stays. */
  keepDays?: number;
}

/** What was found in a file of one kind. */
export interface ExaminedKind<K extends EvidenceKind> {
  kind: K;
  format: FormatOf<K>;
  /** Null where it comes later. */
  summary: SummaryOf<K> | null;
  /** As the file tells it itself. */
  startedAtUs: number | null;
  durationNs: number;
  warnings: Warning[];
  /** What the file became when its secrets were masked; absent where there were none. */
  cleaned?: { id: string; bytes: number };
  /** Functions, classes or threads it can be found by, the weightiest first. */
  names?: readonly string[];
  /** Statements, where it is a log of them. */
  log?: StatementLog;
  /** What tells the failure that it is from others, of a process of that service. */
  failure?: FailureIdentity;
}
export type Examined =
  | { kind: 'traces'; format: TraceFormat }
  | { kind: 'pages'; format: 'har'; loads: PageLoad[] }
  | { [K in EvidenceKind]: ExaminedKind<K> }[EvidenceKind];

/** Reads a file of one kind whole, and says what was found in it. @throws EvidenceError as the reader. */
export type Examiner<K extends EvidenceKind> = (
  file: StoredFile,
  format: FormatOf<K>,
  limits: { maxBytes: number }
) => Promise<ExaminedKind<K>>;

/** What is done with evidence of a kind when it is taken in. */
export interface KindOnServer<K extends EvidenceKind> {
  /** Loaded by the thread that examines alone. */
  examiner: () => Promise<Examiner<K>>;
  /** What is known of it with what the file tells itself; dumps with an equal series are of one process. */
  label: (given: EvidenceLabel, examined: ExaminedKind<K>) => EvidenceLabel & { series?: string };
  /** What its sender should know beside the reader's warnings. */
  warnings?: (label: EvidenceLabel) => Warning[];
  /** False where only what was found is kept, because the file itself holds values. */
  keepsFile: boolean;
}
