import { createHash } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { open, readFile, stat } from 'node:fs/promises';
import { createGunzip } from 'node:zlib';
import { parentPort } from 'node:worker_threads';
import { expose } from 'comlink';
import nodeEndpoint from 'comlink/dist/umd/node-adapter';
import { EvidenceError, type Warning } from '@tromix/core/formats/evidence-error';
import { gunzip, isGzip } from '@tromix/core/formats/gzip';
import { ByteCursor, bytesSource } from '@tromix/core/heap/byte-source';
import { heapFormat } from '@tromix/core/heap/heap-format';
import type { HeapFormat } from '@tromix/core/heap/heap-index';
import { readHead } from '@tromix/core/heap/hprof-walk';
import type { StatementLog, StatementLogFormat } from '@tromix/core/calls/statement-log/model';
import { readStatementStream } from '@tromix/core/calls/statement-log/read';
import {
  isHeap,
  isProfile,
  isStatementLog,
  isThreads,
  recognise,
  type EvidenceFormat
} from '@tromix/core/formats/recognise';
import { summariseThreads, type ThreadsSummary } from '@tromix/core/threads/summary';
import { readThreads } from '@tromix/core/threads/read';
import { readProfile } from '@tromix/core/profile/read';
import type { Profile } from '@tromix/core/profile/model';
import { slice } from '@tromix/core/profile/slice';
import { maskDocument } from '@tromix/core/mask/documents';
import type { Outcome } from '../ingest/outcome';
import { writeAll } from '../store/evidence-store';

export interface ExaminedEvidence {
  format: EvidenceFormat;
  warnings: Warning[];
  durationNs: number;
  /** What a log of statements tells; absent for others. */
  statements?: StatementLog;
  /** What thread dumps tell; absent for others. */
  threads?: ThreadsSummary;
  /** Epoch milliseconds a heap dump was taken at, 0 where it does not tell; absent for others. */
  heapTakenMs?: number;
  /** What the file became when its secrets were masked; absent where there were none. */
  cleaned?: { id: string; bytes: number };
  /** Figures of a profile; absent for others. */
  profile?: Pick<Profile, 'valueType' | 'unit'> & {
    samples: number;
    /** In the profile's unit, idle apart. */
    sum: number;
    idle: number;
    functions: number;
    startTimeUs: number;
  };
}

const HEAD = 256 * 1024;

async function firstBytes(file: string): Promise<Uint8Array> {
  const handle = await open(file);
  try {
    const { buffer, bytesRead } = await handle.read(new Uint8Array(HEAD), 0, HEAD, 0);
    return buffer.subarray(0, bytesRead);
  } finally {
    await handle.close();
  }
}

/** The beginning of a file's content, inflated where it is gzip, and no more of it: a few bytes may inflate to any length. */
async function contentOf(first: Uint8Array): Promise<Uint8Array> {
  if (!isGzip(first)) return first;
  const inflate = createGunzip();
  inflate.end(first);
  const parts: Uint8Array[] = [];
  let bytes = 0;
  try {
    for await (const part of inflate as AsyncIterable<Uint8Array>) {
      parts.push(part);
      bytes += part.length;
      if (bytes >= HEAD) break;
    }
  } catch {
    // It breaks off within the data: what came before is enough. Damage is told by who reads it whole.
  }
  return Buffer.concat(parts);
}

/** The format of a log of statements; null for everything else, and what is not known. */
function logFormat(head: Uint8Array): StatementLogFormat | null {
  try {
    const format = recognise(head);
    return isStatementLog(format) ? format : null;
  } catch {
    return null;
  }
}

/** Logs may be larger than any memory: they are read as they come. */
async function examineLog(
  file: string,
  format: StatementLogFormat,
  gzip: boolean
): Promise<ExaminedEvidence> {
  const statements = await readStatementStream(gzip ? inflated(file) : createReadStream(file), format);
  const { firstUs, lastUs, warnings } = statements;
  const durationNs = firstUs === null || lastUs === null ? 0 : (lastUs - firstUs) * 1000;
  return { format, warnings, durationNs, statements };
}

/** Beyond this a log does not come from a server: it is a bomb. */
const MAX_LOG_BYTES = 64 * 1024 ** 3;

async function* inflated(file: string): AsyncGenerator<Uint8Array> {
  let bytes = 0;
  try {
    for await (const part of createReadStream(file).pipe(createGunzip()) as AsyncIterable<Uint8Array>) {
      bytes += part.length;
      if (bytes > MAX_LOG_BYTES)
        throw new EvidenceError(
          'inflated-too-large',
          `The log inflates to more than ${MAX_LOG_BYTES} bytes.`
        );
      yield part;
    }
  } catch (cause) {
    if (cause instanceof EvidenceError) throw cause;
    throw new EvidenceError('damaged-gzip', `The gzip data cannot be inflated: ${(cause as Error).message}.`);
  }
}

function takenMs(head: Uint8Array, format: HeapFormat): number {
  return format === 'hprof' ? readHead(new ByteCursor(bytesSource(head))).capturedAtMs : 0;
}

/** Larger files are profiles of code alone, and kept as they are. */
const MAX_CLEANED = 128 * 1024 * 1024;

/** Writes a file anew without its secrets, where it has any. */
async function clean(
  file: string,
  content: Uint8Array,
  format: EvidenceFormat
): Promise<ExaminedEvidence['cleaned']> {
  if (content.length > MAX_CLEANED) return undefined;
  const text = new TextDecoder().decode(content);
  const masked = maskDocument(text, format);
  if (masked === text) return undefined;
  const bytes = Buffer.from(masked);
  const handle = await open(file, 'w');
  try {
    await writeAll(handle, bytes);
    await handle.sync();
  } finally {
    await handle.close();
  }
  return { id: createHash('sha256').update(bytes).digest('hex'), bytes: bytes.length };
}

/** Looks at an uploaded file off the server's own thread: what it is, and whether it can be read whole. */
class EvidenceExaminer {
  async examine(file: string, maxInflatedBytes: number): Promise<Outcome<ExaminedEvidence>> {
    try {
      const first = await firstBytes(file);
      const head = await contentOf(first);
      const begins = head.length > 0 ? heapFormat(head) : null;
      // Heap dumps may be larger than any memory: they are indexed as streams, later.
      if (begins)
        return {
          ok: true,
          value: { format: begins, warnings: [], durationNs: 0, heapTakenMs: takenMs(head, begins) }
        };
      const log = head.length > 0 ? logFormat(head) : null;
      if (log) return { ok: true, value: await examineLog(file, log, isGzip(first)) };
      const { size } = await stat(file);
      if (size > maxInflatedBytes)
        return {
          ok: false,
          code: 'too-large',
          message: `The file is larger than ${maxInflatedBytes} bytes, and no heap dump. The limit is the setting TROMIX_MAX_PROFILE_BYTES.`
        };
      const content = gunzip(await readFile(file), {
        maxBytes: maxInflatedBytes,
        setting: 'TROMIX_MAX_PROFILE_BYTES'
      });
      const format = recognise(content);
      if (isThreads(format)) {
        const { series, warnings } = readThreads(content, format);
        const threads = summariseThreads(series);
        const { firstMs, lastMs } = threads;
        const durationNs = firstMs === null || lastMs === null ? 0 : (lastMs - firstMs) * 1e6;
        return {
          ok: true,
          value: { format, warnings, durationNs, threads, cleaned: await clean(file, content, format) }
        };
      }
      if (isHeap(format)) throw new Error('A heap dump was not recognised by its head.');
      if (!isProfile(format)) return { ok: true, value: { format, warnings: [], durationNs: 0 } };
      const { profile, startTimeUs, warnings } = readProfile(content, format);
      const { sum, idle } = slice(profile);
      const figures = {
        valueType: profile.valueType,
        unit: profile.unit,
        samples: profile.sampleNode.length,
        sum,
        idle,
        functions: profile.frames.length,
        startTimeUs
      };
      const cleaned = await clean(file, content, format);
      return {
        ok: true,
        value: { format, warnings, durationNs: profile.durationNs, profile: figures, cleaned }
      };
    } catch (cause) {
      if (!(cause instanceof EvidenceError)) throw cause;
      return { ok: false, code: cause.code, message: cause.message, offset: cause.offset };
    }
  }
}
export type { EvidenceExaminer };

expose(new EvidenceExaminer(), nodeEndpoint(parentPort!));
