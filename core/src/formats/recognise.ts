import { STATEMENT_LOG_FORMATS, type StatementLogFormat } from '../calls/statement-log/model';
import { isJsonlogLine } from '../calls/statement-log/postgres-jsonlog';
import { statementLogFormat } from '../calls/statement-log/read';
import { looksFolded } from '../profile/folded';
import { heapFormat } from '../heap/heap-format';
import type { HeapFormat } from '../heap/heap-index';
import { PROFILE_FORMATS, type ProfileFormat } from '../profile/read';
import { THREAD_FORMATS, type ThreadFormat } from '../threads/model';
import { threadTextFormat } from '../threads/read';
import { EvidenceError } from './evidence-error';

export type EvidenceFormat =
  'otlp-json' | 'otlp-protobuf' | ProfileFormat | StatementLogFormat | ThreadFormat | HeapFormat;

/** True for profiles of any format. */
export function isProfile(format: EvidenceFormat): format is ProfileFormat {
  return (PROFILE_FORMATS as readonly string[]).includes(format);
}

/** True for thread dumps of any runtime. */
export function isThreads(format: EvidenceFormat): format is ThreadFormat {
  return (THREAD_FORMATS as readonly string[]).includes(format);
}

/** True for heap dumps, which are read as streams and never as a whole. */
export function isHeap(format: EvidenceFormat): format is HeapFormat {
  return format === 'hprof' || format === 'v8-heap-snapshot';
}

/** True for logs of statements. */
export function isStatementLog(format: EvidenceFormat): format is StatementLogFormat {
  return (STATEMENT_LOG_FORMATS as readonly string[]).includes(format);
}

/** Bytes of the beginning that are looked at; of a text with lines more, since a log may begin with other lines. */
const HEAD = 4096;
const LOG_HEAD = 256 * 1024;

/**
 * Says what a file is by its content, never by its name.
 * @param bytes the inflated content, or at least its first 256 KiB.
 * @throws EvidenceError `empty`, `unknown-format`.
 */
export function recognise(bytes: Uint8Array): EvidenceFormat {
  if (bytes.length === 0)
    throw new EvidenceError('empty', 'The file is empty: 0 bytes were found. Choose one with content.', 0);
  const heap = heapFormat(bytes);
  if (heap) return heap;
  const head = new TextDecoder()
    .decode(bytes.subarray(0, HEAD))
    .replace(/^\uFEFF/, '')
    .trimStart();
  if (head.startsWith('{')) {
    if (/"resourceSpans"\s*:/.test(head)) return 'otlp-json';
    if (/"threadDump"\s*:/.test(head)) return 'jvm-threads-json';
    if (/^\{\s*"header"\s*:\s*\{/.test(head) && /"(?:nodejsVersion|reportVersion)"\s*:/.test(head))
      return 'node-report';
    if (/^\{\s*"head"\s*:\s*\{/.test(head)) return 'v8-heap-profile';
    if (/"(?:nodes|startTime|endTime|samples|timeDeltas)"\s*:/.test(head)) return 'v8-cpu-profile';
    if (isJsonlogLine(head)) return 'postgresql-jsonlog';
    throw unknown(
      'a JSON object with none of the fields of a trace (resourceSpans), a CPU profile (nodes, samples), a sampling heap profile (head), a thread dump (threadDump) or a diagnostic report (header)'
    );
  }
  if (looksLikeOtlp(bytes)) return 'otlp-protobuf';
  const beginning = new TextDecoder().decode(bytes.subarray(0, LOG_HEAD));
  const threads = threadTextFormat(beginning);
  if (threads) return threads;
  const log = statementLogFormat(beginning);
  if (log) return log;
  if (looksFolded(head)) return 'folded-stacks';
  throw unknown(head.startsWith('[') ? 'a JSON list' : 'content of no known shape');
}

function unknown(found: string): EvidenceError {
  return new EvidenceError(
    'unknown-format',
    `Expected OTLP traces (JSON or protobuf), a profile (V8 CPU profile, V8 sampling heap profile, folded stacks), a thread dump (JVM text or JSON, Python fault handler, Go goroutines, Node.js diagnostic report), a heap dump (HPROF, V8 heap snapshot) or a log of statements (PostgreSQL csvlog, jsonlog or duration lines, slow log of MySQL or MariaDB), plain or gzip, but found ${found} at byte 0.`,
    0
  );
}

/** Field 1, length-delimited (ResourceSpans), with a length that fits, holding field 1 or 2 of its own. */
function looksLikeOtlp(bytes: Uint8Array): boolean {
  if (bytes[0] !== 0x0a) return false;
  const { value, next } = varint(bytes, 1);
  if (next < 0 || value === 0) return false;
  const inner = bytes[next];
  return inner === 0x0a || inner === 0x12;
}

function varint(bytes: Uint8Array, at: number): { value: number; next: number } {
  let value = 0;
  for (let i = 0; i < 5 && at + i < bytes.length; i++) {
    value += (bytes[at + i] & 0x7f) * 2 ** (7 * i);
    if (bytes[at + i] < 0x80) return { value, next: at + i + 1 };
  }
  return { value: 0, next: -1 };
}
