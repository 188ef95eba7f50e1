import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { InvalidArgumentError } from 'commander';
import { KINDS, READ_INTO_VIEWS } from '@tromix/core/evidence/kinds';
import { inspectFiles, type Result } from '../inspect';
import { blocks, jsonParts } from '../json';
import { EXIT, type Define } from '../command';
import { Scratch } from '../scratch';
import { summarise } from '../summary';

export const defineInspect: Define = (command, outcome) => {
  command
    .argument('<file...>', 'files, plain or gzip')
    .option('--json', 'one JSON document on standard output')
    .option('--top <n>', 'how many requests, functions and findings; 0 for all', count, 20)
    .addHelpText(
      'after',
      `
Reads by content, whatever a file is called:
${[READ_INTO_VIEWS.traces, ...Object.values(KINDS)]
  .map(({ label, reads }) => `  ${label}: ${reads}`)
  .join('\n')}
Trace files are taken as batches of one system, thread dumps of one process as one series.`
    )
    .action(async (files: string[], { json, top }: { json?: boolean; top: number }) => {
      outcome.code = await inspect(files, json === true, top);
    });
};

function count(text: string): number {
  const value = Number(text);
  if (!Number.isInteger(value) || value < 0) throw new InvalidArgumentError('Expected an integer from 0.');
  return value;
}

async function inspect(files: string[], json: boolean, top: number): Promise<number> {
  const scratch = new Scratch();
  try {
    const results = await inspectFiles(files, { top, scratch });
    if (json) await print(jsonParts({ tromix: 1, results }), '\n');
    else await print(summaries(results));
    return results.some((result) => 'error' in result) ? EXIT.usage : EXIT.ok;
  } finally {
    scratch.close();
  }
}

function* summaries(results: readonly Result[]): Generator<string> {
  for (const [i, result] of results.entries()) {
    if (i > 0) yield '\n';
    yield* summarise(result);
  }
}

/** Writes no faster than it is read; who reads may have enough before the end. */
async function print(parts: Iterable<string>, end = ''): Promise<void> {
  try {
    await pipeline(Readable.from(blocks(parts)), process.stdout, { end: false });
    process.stdout.write(end);
  } catch (cause) {
    if ((cause as NodeJS.ErrnoException).code !== 'EPIPE') throw cause;
  }
}
