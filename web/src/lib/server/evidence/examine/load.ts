import { maskedPlan } from '@tromix/core/load/masked-plan';
import { readRun, writeRun } from '@tromix/core/load/run-file';
import { summariseRun } from '@tromix/core/load/summary';
import { maskText } from '@tromix/core/mask/text';
import type { Examiner } from '../kind';
import { written } from './cleaned';
import { wholeContent } from './examiner';

export const examineLoad: Examiner<'load'> = async (file, format, { maxBytes }) => {
  const content = await wholeContent(file, maxBytes);
  const read = readRun(content);
  const run = { ...read, name: maskText(read.name, 'name'), plan: maskedPlan(read.plan) };
  const text = writeRun(run);
  // One that Tromix wrote itself is kept byte for byte.
  const changed = text !== new TextDecoder().decode(content);
  return {
    kind: 'load',
    format,
    summary: summariseRun(run),
    startedAtUs: run.startedAtUs,
    durationNs: run.endUs * 1000,
    warnings: [],
    ...(changed ? { cleaned: await written(file.path, text) } : {})
  };
};
