import type { Warning } from '@tromix/core/formats/evidence-error';
import { inspectRun, type InspectedRun } from '@tromix/core/inspect/load';
import { readRun, type LoadFormat, type LoadRun } from '@tromix/core/load/run-file';
import { loadLines } from '../load-lines';
import type { KindOnCommandLine } from './kind';

export const load: KindOnCommandLine<LoadFormat, LoadRun, InspectedRun> = {
  read: async (file) => ({ part: readRun(await file.content()) }),
  inspect: ([run]) => ({ ...inspectRun(run), warnings: [] as Warning[] }),
  lines: loadLines
};
