import { readFile, stat } from 'node:fs/promises';
import { EvidenceError, type Warning } from '@tromix/core/formats/evidence-error';
import { gunzip } from '@tromix/core/formats/gzip';
import { recognise, recogniseOr, type EvidenceFormat } from '@tromix/core/formats/recognise';
import { openStored } from '../../web/src/lib/server/evidence/stored-file';
import { kindOnCommandLine, type BodyOf, type KINDS_ON_COMMAND_LINE } from './kinds';
import type { InspectedFile, InspectOptions } from './kinds/kind';

type Kind = keyof typeof KINDS_ON_COMMAND_LINE;

interface Head<K extends Kind> {
  kind: K;
  /** One path, or the list of those that were read as one analysis. */
  file: string | string[];
  bytes: number;
  format: EvidenceFormat;
  warnings: Warning[];
}
export type ResultOf<K extends Kind> = Head<K> & BodyOf<K>;
export interface FailedResult {
  file: string;
  error: { code: string; message: string; offset?: number };
}
export type Result = { [K in Kind]: ResultOf<K> }[Kind] | FailedResult;

/** A file's own text, not more than Node can hold in one string. */
const MAX_INFLATED = 512 * 1024 * 1024;

/** Files whose parts are one result. */
interface Group {
  kind: Kind;
  format: EvidenceFormat;
  files: InspectedFile[];
  parts: unknown[];
}

/** Reads every file by its content; what belongs together is one result, in the place of its first file. */
export async function inspectFiles(files: string[], options: InspectOptions): Promise<Result[]> {
  const found: (Group | FailedResult)[] = [];
  const joined = new Map<string, Group>();
  for (const path of files) {
    try {
      const { file, kind, format } = await recognisedAt(path);
      const { part, join } = await kindOnCommandLine(kind).read(file, format, options);
      const key = join === undefined ? '' : `${kind} ${join}`;
      const group = joined.get(key) ?? { kind, format, files: [], parts: [] };
      group.files.push(file);
      group.parts.push(part);
      if (group.files.length === 1) found.push(group);
      if (key !== '') joined.set(key, group);
    } catch (cause) {
      found.push(failed(path, cause));
    }
  }
  return found.map((one) => ('error' in one ? one : resultOf(one, options)));
}

/** A file, and what it holds. @throws EvidenceError for content that is nothing we know. */
export async function recognisedAt(
  path: string
): Promise<{ file: InspectedFile; kind: Kind; format: EvidenceFormat }> {
  const file = await fileAt(path);
  const known =
    (file.stored.head.length > 0 ? recogniseOr(file.stored.head) : null) ?? recognise(await file.content());
  return { file, ...known };
}

async function fileAt(path: string): Promise<InspectedFile> {
  const { size: bytes } = await stat(path);
  return {
    path,
    bytes,
    stored: await openStored(path),
    content: async () =>
      gunzip(await readFile(path), {
        maxBytes: MAX_INFLATED,
        setting: 'the longest text this command reads'
      })
  };
}

function resultOf({ kind, format, files, parts }: Group, options: InspectOptions): Result {
  return {
    file: files.length === 1 ? files[0].path : files.map(({ path }) => path),
    bytes: files.reduce((sum, { bytes }) => sum + bytes, 0),
    kind,
    format,
    ...kindOnCommandLine(kind).inspect(parts, options)
  } as Result;
}

export function failed(file: string, cause: unknown): FailedResult {
  if (cause instanceof EvidenceError) {
    const { code, message, offset } = cause;
    return { file, error: { code, message, ...(offset === undefined ? {} : { offset }) } };
  }
  const { code, message } = cause as NodeJS.ErrnoException;
  if (code === 'ENOENT') return { file, error: { code: 'not-found', message: `There is no file ${file}.` } };
  return { file, error: { code: 'unreadable', message: `${file} cannot be read: ${message}` } };
}
