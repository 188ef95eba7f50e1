import * as v from 'valibot';
import { STATEMENT_LOG_FORMATS } from '../calls/statement-log/model';
import { recogniseStatementLog } from '../calls/statement-log/recognise';
import { StatementsSummary } from '../calls/statement-log/summary';
import { CRASH_FORMATS } from '../crashes/crash';
import { recogniseCrash } from '../crashes/recognise';
import { CrashSummary } from '../crashes/summary';
import type { FileHead } from '../formats/file-head';
import { heapFormat } from '../heap/heap-format';
import { HEAP_FORMATS } from '../heap/heap-index';
import { HeapSummary } from '../heap/summary';
import { LOAD_FORMATS, recogniseRun } from '../load/run-file';
import { LoadSummary } from '../load/summary';
import { PROFILE_FORMATS } from '../profile/read';
import { recogniseProfile } from '../profile/recognise';
import { ProfileSummary } from '../profile/summary';
import { THREAD_FORMATS } from '../threads/model';
import { recogniseThreads } from '../threads/recognise';
import { ThreadsSummary } from '../threads/summary';

/**
 * Kinds of evidence that are listed by themselves (traces become requests): what each is called, its formats in words and by name, how its files are
 * recognised, and the shape of its summary. Files are asked in this order: folded stacks, which look like little, come last.
 */
export const KINDS = {
  heap: {
    label: 'heap dump',
    reads: 'HPROF, V8 heap snapshot',
    formats: HEAP_FORMATS,
    recognise: ({ bytes }: FileHead) => heapFormat(bytes),
    summary: HeapSummary
  },
  // Before dumps of threads: what a runtime writes as it ends names threads too.
  crash: {
    label: 'crash',
    reads:
      'Node.js report of a fatal error, JVM fatal error log, standard error of Go, Python, the JVM, Node.js, Ruby or PHP, the end that tromix run saw',
    formats: CRASH_FORMATS,
    recognise: recogniseCrash,
    summary: CrashSummary
  },
  threads: {
    label: 'thread dump',
    reads: 'JVM text or JSON, Python fault handler, Go goroutines, Node.js diagnostic report',
    formats: THREAD_FORMATS,
    recognise: recogniseThreads,
    summary: ThreadsSummary
  },
  load: {
    label: 'load run',
    reads: 'JSON as Tromix exports it',
    formats: LOAD_FORMATS,
    recognise: recogniseRun,
    summary: LoadSummary
  },
  statements: {
    label: 'statement log',
    reads: 'PostgreSQL csvlog, jsonlog or duration lines, slow log of MySQL or MariaDB',
    formats: STATEMENT_LOG_FORMATS,
    recognise: recogniseStatementLog,
    summary: StatementsSummary
  },
  profile: {
    label: 'profile',
    reads:
      'V8 CPU profile, V8 sampling heap profile, protobuf profile as Go writes it, trace events of a browser, JSON of a JVM’s own recording, OTLP profiles, folded stacks',
    formats: PROFILE_FORMATS,
    recognise: recogniseProfile,
    summary: ProfileSummary
  }
} as const;

/** What else is read from files, and listed by what is in them. */
export const READ_INTO_VIEWS = {
  traces: { label: 'traces', reads: 'OTLP as JSON, JSON lines or protobuf' },
  pages: { label: 'page loads', reads: 'HTTP Archive (HAR 1.2)' }
} as const;

export type EvidenceKind = keyof typeof KINDS;
export const EVIDENCE_KINDS = Object.keys(KINDS) as EvidenceKind[];

/** A format of one kind. */
export type FormatOf<K extends EvidenceKind> = (typeof KINDS)[K]['formats'][number];
/** What a list says of one kind. */
export type SummaryOf<K extends EvidenceKind> = v.InferOutput<(typeof KINDS)[K]['summary']>;

export const isEvidenceKind = (text: string): text is EvidenceKind => Object.hasOwn(KINDS, text);

/** A summary as it was stored; null for one that is damaged, or not known yet. */
export function readSummary<K extends EvidenceKind>(kind: K, stored: string): SummaryOf<K> | null {
  let value: unknown;
  try {
    value = JSON.parse(stored);
  } catch {
    return null;
  }
  const read = v.safeParse(KINDS[kind].summary, value);
  return read.success ? (read.output as SummaryOf<K>) : null;
}
