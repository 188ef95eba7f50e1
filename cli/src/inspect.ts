import { readFile } from 'node:fs/promises';
import { EvidenceError, type Warning } from '@tromix/core/formats/evidence-error';
import { gunzip } from '@tromix/core/formats/gzip';
import { decodeTracesJson, decodeTracesProtobuf, type TraceBatch } from '@tromix/core/formats/otlp/traces';
import { isProfile, isStatementLog, recognise, type EvidenceFormat } from '@tromix/core/formats/recognise';
import { inspectProfile, type InspectedProfile } from '@tromix/core/inspect/profile';
import { inspectStatements, type InspectedStatements } from '@tromix/core/inspect/statements';
import { inspectTraces, type InspectedTraces } from '@tromix/core/inspect/traces';
import { readProfile, type ProfileFormat } from '@tromix/core/profile/read';

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
export interface FailedResult {
  file: string;
  error: { code: string; message: string; offset?: number };
}
export type Result = ProfileResult | TracesResult | StatementsResult | FailedResult;

/** A file's own text, not more than Node can hold in one string. */
const MAX_INFLATED = 512 * 1024 * 1024;

interface Content {
  file: string;
  bytes: number;
  content: Uint8Array;
  format: EvidenceFormat;
}

/** Reads every file by its content. Trace files are one analysis, in the place of the first of them. */
export async function inspectFiles(files: string[], top: number): Promise<Result[]> {
  const results: Result[] = [];
  const traces: { place: number; parts: Content[]; batches: TraceBatch[] } = {
    place: -1,
    parts: [],
    batches: []
  };
  for (const file of files) {
    try {
      const part = await open(file);
      if (isProfile(part.format)) {
        results.push(profileResult(part, part.format, top));
        continue;
      }
      if (isStatementLog(part.format)) {
        const { file: name, bytes, format } = part;
        const found = inspectStatements(textOf(part), part.format, top);
        results.push({ file: name, bytes, kind: 'statements', format, findings: [], ...found });
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
  if (traces.place >= 0) results[traces.place] = tracesResult(traces.parts, traces.batches, top);
  return results;
}

async function open(file: string): Promise<Content> {
  const stored = await readFile(file);
  const content = gunzip(stored, { maxBytes: MAX_INFLATED, setting: 'the longest text this command reads' });
  return { file, bytes: stored.length, content, format: recognise(content) };
}

const textOf = ({ content }: Content): string => new TextDecoder().decode(content);

function decodeBatch(part: Content): TraceBatch {
  return part.format === 'otlp-json' ? decodeTracesJson(textOf(part)) : decodeTracesProtobuf(part.content);
}

function profileResult(part: Content, format: ProfileFormat, top: number): ProfileResult {
  const { profile, warnings } = readProfile(part.content, format);
  const { file, bytes } = part;
  return { file, bytes, kind: 'profile', format, warnings, ...inspectProfile(profile, top) };
}

function tracesResult(parts: Content[], batches: TraceBatch[], top: number): TracesResult {
  const bytes = parts.reduce((sum, part) => sum + part.bytes, 0);
  const file = parts.length === 1 ? parts[0].file : parts.map((part) => part.file);
  return { file, bytes, kind: 'traces', format: parts[0].format, ...inspectTraces(batches, top) };
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
