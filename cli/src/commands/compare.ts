import { compareBatches } from '@tromix/core/compare/compared-batches';
import { KINDS } from '@tromix/core/evidence/kinds';
import type { TraceFormat } from '@tromix/core/formats/otlp/recognise';
import type { TraceBatch } from '@tromix/core/formats/otlp/traces';
import type { Sides } from '@tromix/core/sides';
import { EXIT, type Define } from '../command';
import { compareLines } from '../compare-lines';
import { failed, recognisedAt } from '../inspect';
import { batchOf } from '../kinds/traces';

export const defineCompare: Define = (command, outcome) => {
  command
    .usage('[options] <A...> -- <B...>')
    .argument('<file...>', 'traces before (A), then -- and traces after (B); plain or gzip')
    .option('--json', 'one JSON document on standard output')
    .addHelpText(
      'after',
      `
Each side is taken as batches of one system. Endpoints that both have are compared: durations by their median and p95 with 95 % intervals
(moving-block bootstrap) and a rank test, then the parts of the request that make the difference, and the findings.

  tromix compare before.otlp.json -- after.otlp.json`
    )
    .action(async (files: string[], { json }: { json?: boolean }) => {
      outcome.code = await compare(sidesOf(files, command.parent!.args), json === true);
    });
};

/** The files before and after `--`. */
function sidesOf(files: readonly string[], args: readonly string[]): Sides<string[]> {
  const second = args.includes('--') ? args.length - args.indexOf('--') - 1 : 0;
  return { before: files.slice(0, files.length - second), after: files.slice(files.length - second) };
}

async function compare(files: Sides<string[]>, json: boolean): Promise<number> {
  if (files.before.length === 0 || files.after.length === 0) {
    console.error('Expected files of both sides: tromix compare A… -- B…');
    return EXIT.usage;
  }
  const before = await batchesOf(files.before);
  const after = await batchesOf(files.after);
  if (!before || !after) return EXIT.usage;
  const compared = compareBatches({ before, after });
  if (json) console.log(JSON.stringify({ tromix: 1, files, ...compared }));
  else for (const line of compareLines(compared)) console.log(line);
  return EXIT.ok;
}

/** The trace batches of some files; null where one cannot be read, which is said. */
async function batchesOf(files: readonly string[]): Promise<TraceBatch[] | null> {
  const batches: TraceBatch[] = [];
  for (const path of files) {
    try {
      const { file, kind, format } = await recognisedAt(path);
      if (kind !== 'traces') console.error(`${path}: Expected traces, but it is a ${KINDS[kind].label}.`);
      else batches.push(await batchOf(file, format as TraceFormat));
    } catch (cause) {
      console.error(`${path}: ${failed(path, cause).error.message}`);
    }
  }
  return batches.length === files.length ? batches : null;
}
