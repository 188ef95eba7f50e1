import { EVIDENCE_KINDS, KINDS, type EvidenceKind, type FormatOf } from '../evidence/kinds';
import { EvidenceError } from './evidence-error';
import { FileHead } from './file-head';
import { recogniseTraces, type TraceFormat } from './otlp/recognise';

/** What a file is: traces, or evidence of a kind. */
export type Recognised =
  | { kind: 'traces'; format: TraceFormat }
  | { [K in EvidenceKind]: { kind: K; format: FormatOf<K> } }[EvidenceKind];
export type EvidenceFormat = Recognised['format'];

/**
 * Says what a file is by its content, never by its name.
 * @param bytes the inflated content, or at least its first 256 KiB.
 * @throws EvidenceError `empty`, `unknown-format`.
 */
export function recognise(bytes: Uint8Array): Recognised {
  if (bytes.length === 0)
    throw new EvidenceError('empty', 'The file is empty: 0 bytes were found. Choose one with content.', 0);
  const head = new FileHead(bytes);
  const traces = recogniseTraces(head);
  if (traces) return { kind: 'traces', format: traces };
  for (const kind of EVIDENCE_KINDS) {
    const format = KINDS[kind].recognise(head);
    if (format) return { kind, format } as Recognised;
  }
  const found = head.isObject
    ? 'a JSON object with none of the fields of a trace (resourceSpans), a CPU profile (nodes, samples), a sampling heap profile (head), a thread dump (threadDump) or a diagnostic report (header)'
    : head.text.startsWith('[')
      ? 'a JSON list'
      : 'content of no known shape';
  throw new EvidenceError(
    'unknown-format',
    `Expected OTLP traces (JSON or protobuf), a profile (V8 CPU profile, V8 sampling heap profile, folded stacks), a thread dump (JVM text or JSON, Python fault handler, Go goroutines, Node.js diagnostic report), a heap dump (HPROF, V8 heap snapshot) or a log of statements (PostgreSQL csvlog, jsonlog or duration lines, slow log of MySQL or MariaDB), plain or gzip, but found ${found} at byte 0.`,
    0
  );
}

/** As `recognise`; null for what is not known. */
export function recogniseOr(bytes: Uint8Array): Recognised | null {
  try {
    return recognise(bytes);
  } catch (cause) {
    if (cause instanceof EvidenceError) return null;
    throw cause;
  }
}
