import { readCrash } from '@tromix/core/crashes/read';
import { crashIdentity, summariseCrash } from '@tromix/core/crashes/summary';
import { Warnings } from '@tromix/core/formats/evidence-error';
import type { Examiner } from '../kind';
import { cleaned } from './cleaned';
import { wholeContent } from './examiner';

/** Reports are some hundred kilobytes long. */
const MAX_CRASH_BYTES = 32 * 1024 * 1024;

export const examineCrash: Examiner<'crash'> = async (file, format, { maxBytes }) => {
  const content = await wholeContent(file, Math.min(maxBytes, MAX_CRASH_BYTES));
  const masked = await cleaned(file.path, content, format);
  const crash = readCrash(masked ? await wholeContent(file, MAX_CRASH_BYTES) : content, format);
  const warnings = new Warnings();
  if (crash.isCut) warnings.add('truncated', 'The report is cut off: what stood behind it is not told.');
  const list = warnings.list();
  return {
    kind: 'crash',
    format,
    summary: summariseCrash(crash, list),
    startedAtUs: crash.atMs === null ? null : crash.atMs * 1000,
    durationNs: 0,
    warnings: list,
    names: [crash.exception?.type ?? '', crashIdentity(crash).function].filter(Boolean),
    failure: crashIdentity(crash),
    cleaned: masked
  };
};
