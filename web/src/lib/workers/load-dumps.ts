import { EvidenceError, type Warning } from '@tromix/core/formats/evidence-error';
import { FileHead } from '@tromix/core/formats/file-head';
import { recognise } from '@tromix/core/formats/recognise';
import type { DumpSeries } from '@tromix/core/threads/model';
import { readThreads } from '@tromix/core/threads/read';
import { recogniseThreads } from '@tromix/core/threads/recognise';
import { fetchContent } from './fetch-content';

/** Fetches and reads thread dumps. @throws EvidenceError where the file is gone, or holds none. */
export async function loadDumps(url: string): Promise<{ series: DumpSeries; warnings: Warning[] }> {
  const content = await fetchContent(url);
  const { kind } = recognise(content);
  // What a runtime writes as it ends names its threads too.
  const format = kind === 'threads' || kind === 'crash' ? recogniseThreads(new FileHead(content)) : null;
  if (!format) throw new EvidenceError('not-threads', 'The file holds no thread dump.');
  return readThreads(content, format);
}
