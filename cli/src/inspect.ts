import { readFile, stat } from 'node:fs/promises';
import { EvidenceError, Warnings, type Warning } from '@tromix/core/formats/evidence-error';
import { gunzip } from '@tromix/core/formats/gzip';
import { decodeTracesJson, decodeTracesProtobuf, type TraceBatch } from '@tromix/core/formats/otlp/traces';
import { recognise, recogniseOr, type EvidenceFormat, type Recognised } from '@tromix/core/formats/recognise';
import type { InspectedHeap } from '@tromix/core/inspect/heap';
import { inspectProfile, type InspectedProfile } from '@tromix/core/inspect/profile';
import type { InspectedStatements } from '@tromix/core/inspect/statements';
import { inspectThreads, type InspectedThreads } from '@tromix/core/inspect/threads';
import { inspectTraces, type InspectedTraces } from '@tromix/core/inspect/traces';
import { readProfile, type ProfileFormat } from '@tromix/core/profile/read';
import { joinSeries } from '@tromix/core/threads/join';
import type { DumpSeries } from '@tromix/core/threads/model';
import { readThreads } from '@tromix/core/threads/read';
import { processKey } from '@tromix/core/threads/summary';
import { openStored } from '../../web/src/lib/server/evidence/stored-file';
import { inspectHeapFile } from './heap';
import type { Scratch } from './scratch';
import { inspectStatementFile } from './statements';

interface Head {
  /** One path, or the list of those that were read as one analysis. */
  file: string | string[];
  bytes: number;
  format: EvidenceFormat;
  warnings: Warning[];
}
export type ProfileResult = Head & { kind: 'profile' } & InspectedProfile;
export type TracesResult = Head & { kind: 'traces' } & InspectedTraces;
export type StatementsResult = Head & { kind: 'statements'; findings: [] } & InspectedStatements;
export type HeapResult = Head & { kind: 'heap' } & InspectedHeap;
export type ThreadsResult = Head & { kind: 'threads' } & InspectedThreads;
export interface FailedResult {
  file: string;
  error: { code: string; message: string; offset?: number };
}
export type Result =
  ProfileResult | TracesResult | StatementsResult | ThreadsResult | HeapResult | FailedResult;

/** A file's own text, not more than Node can hold in one string. */
const MAX_INFLATED = 512 * 1024 * 1024;

interface Content {
  file: string;
  bytes: number;
  content: Uint8Array;
  recognised: Recognised;
}

/** Thread dumps of one format, read as one series in the place of the first file. */
interface ThreadFiles {
  place: number;
  parts: Content[];
  series: DumpSeries[];
  warnings: Warning[];
}

/**
 * Reads every file by its content. Trace files are one analysis, in the place of the first of them; thread dumps of one kind too.
 * @param scratch closed when the results have been read: long lists of them still come from files.
 */
export async function inspectFiles(files: string[], top: number, scratch: Scratch): Promise<Result[]> {
  const results: Result[] = [];
  const traces: { place: number; parts: Content[]; batches: TraceBatch[] } = {
    place: -1,
    parts: [],
    batches: []
  };
  const threads = new Map<string, ThreadFiles>();
  for (const file of files) {
    try {
      const stored = await openStored(file);
      const begins = stored.head.length > 0 ? recogniseOr(stored.head) : null;
      const { size: bytes } = await stat(file);
      if (begins?.kind === 'heap') {
        const { format } = begins;
        const { warnings, heap } = await inspectHeapFile(file, format, top, scratch);
        results.push({ file, bytes, kind: 'heap', format, warnings, ...heap });
        continue;
      }
      if (begins?.kind === 'statements') {
        const { format } = begins;
        const found = await inspectStatementFile(stored, format, top);
        results.push({ file, bytes, kind: 'statements', format, findings: [], ...found });
        continue;
      }
      const part = await open(file);
      const { recognised } = part;
      if (recognised.kind === 'threads') {
        const { series, warnings } = readThreads(part.content, recognised.format);
        // Dumps of different runtimes or processes are no series; nor are those that do not tell their process.
        const key = `${recognised.format} ${processKey(series.dumps[series.dumps.length - 1]) || file}`;
        let known = threads.get(key);
        if (!known) {
          threads.set(key, (known = { place: results.length, parts: [], series: [], warnings: [] }));
          results.push({ file, error: { code: 'pending', message: '' } });
        }
        known.parts.push(part);
        known.series.push(series);
        known.warnings.push(...warnings);
        continue;
      }
      if (recognised.kind === 'profile') {
        results.push(profileResult(part, recognised.format, top));
        continue;
      }
      traces.batches.push(decodeBatch(part));
      traces.parts.push(part);
      if (traces.place >= 0) continue;
      traces.place = results.length;
      results.push({ file, error: { code: 'pending', message: '' } });
    } catch (cause) {
      results.push(failed(file, cause));
    }
  }
  for (const found of threads.values()) results[found.place] = threadsResult(found, top);
  if (traces.place >= 0) results[traces.place] = tracesResult(traces.parts, traces.batches, top);
  return results;
}

async function open(file: string): Promise<Content> {
  const stored = await readFile(file);
  const content = gunzip(stored, { maxBytes: MAX_INFLATED, setting: 'the longest text this command reads' });
  return { file, bytes: stored.length, content, recognised: recognise(content) };
}

const textOf = ({ content }: Content): string => new TextDecoder().decode(content);

function decodeBatch(part: Content): TraceBatch {
  return part.recognised.format === 'otlp-json'
    ? decodeTracesJson(textOf(part))
    : decodeTracesProtobuf(part.content);
}

function profileResult(part: Content, format: ProfileFormat, top: number): ProfileResult {
  const { profile, warnings } = readProfile(part.content, format);
  const { file, bytes } = part;
  return { file, bytes, kind: 'profile', format, warnings, ...inspectProfile(profile, top) };
}

function threadsResult({ parts, series, warnings }: ThreadFiles, top: number): ThreadsResult {
  const found = inspectThreads(joinSeries(series), top);
  return {
    ...headOf(parts),
    kind: 'threads',
    ...found,
    warnings: summedWarnings([...warnings, ...found.warnings])
  };
}

/** The same warning of several files once, with its counts added up. */
function summedWarnings(all: readonly Warning[]): Warning[] {
  const sum = new Warnings();
  for (const { code, message, count } of all) sum.add(code, message, count);
  return sum.list();
}

/** What is said of several files read as one. */
function headOf(parts: Content[]): Pick<Head, 'file' | 'bytes' | 'format'> {
  return {
    file: parts.length === 1 ? parts[0].file : parts.map((part) => part.file),
    bytes: parts.reduce((sum, part) => sum + part.bytes, 0),
    format: parts[0].recognised.format
  };
}

function tracesResult(parts: Content[], batches: TraceBatch[], top: number): TracesResult {
  return { ...headOf(parts), kind: 'traces', ...inspectTraces(batches, top) };
}

function failed(file: string, cause: unknown): FailedResult {
  if (cause instanceof EvidenceError) {
    const { code, message, offset } = cause;
    return { file, error: { code, message, ...(offset === undefined ? {} : { offset }) } };
  }
  const { code, message } = cause as NodeJS.ErrnoException;
  if (code === 'ENOENT') return { file, error: { code: 'not-found', message: `There is no file ${file}.` } };
  return { file, error: { code: 'unreadable', message: `${file} cannot be read: ${message}` } };
}
