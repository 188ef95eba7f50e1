import { namesInDumps } from '@tromix/core/threads/names';
import { readThreads } from '@tromix/core/threads/read';
import { summariseThreads } from '@tromix/core/threads/summary';
import { cleaned } from './cleaned';
import type { Examiner } from '../kind';
import { wholeContent } from './examiner';

export const examineThreads: Examiner<'threads'> = async (file, format, { maxBytes }) => {
  const content = await wholeContent(file, maxBytes);
  const { series, warnings } = readThreads(content, format);
  const summary = summariseThreads(series, warnings);
  const { firstMs, lastMs } = summary;
  return {
    kind: 'threads',
    format,
    summary,
    startedAtUs: firstMs === null ? null : firstMs * 1000,
    durationNs: firstMs === null || lastMs === null ? 0 : (lastMs - firstMs) * 1e6,
    warnings,
    names: namesInDumps(series),
    cleaned: await cleaned(file.path, content, format)
  };
};
