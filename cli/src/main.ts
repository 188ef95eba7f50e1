import { KINDS } from '@tromix/core/evidence/kinds';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { inspectFiles, type Result } from './inspect';
import { blocks, jsonParts } from './json';
import { Scratch } from './scratch';
import { summarise } from './summary';

const USAGE = `Usage: tromix inspect FILE… [--json] [--top N]

  FILE…     plain or gzip:
              traces: OTLP as JSON, JSON lines or protobuf
${Object.values(KINDS)
  .map(({ label, reads }) => `              ${label}: ${reads}`)
  .join('\n')}
            Trace files are taken as batches of one system, thread dumps of one process as one series.
  --json    one JSON document on standard output
  --top N   how many requests, functions and findings (default 20, 0 for all)
`;

interface Options {
  files: string[];
  json: boolean;
  top: number;
}

/** Runs the command line. @returns the exit code. */
export async function main(args: string[]): Promise<number> {
  if (args[0] === '--help' || args[0] === '-h' || args.length === 0) {
    process.stdout.write(USAGE);
    return args.length === 0 ? 2 : 0;
  }
  const options = parse(args);
  if (typeof options === 'string') {
    process.stderr.write(`tromix: ${options}\n\n${USAGE}`);
    return 2;
  }
  const scratch = new Scratch();
  try {
    const results = await inspectFiles(options.files, { top: options.top, scratch });
    if (options.json) await print(jsonParts({ tromix: 1, results }), '\n');
    else await print(summaries(results));
    return results.some((result) => 'error' in result) ? 2 : 0;
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

function parse(args: string[]): Options | string {
  const [command, ...rest] = args;
  if (command !== 'inspect') return `there is no command ${command}`;
  const options: Options = { files: [], json: false, top: 20 };
  for (let i = 0; i < rest.length; i++) {
    if (rest[i] === '--json') options.json = true;
    else if (rest[i] === '--top') {
      const top = Number(rest[++i]);
      if (!Number.isInteger(top) || top < 0) return '--top takes an integer from 0';
      options.top = top;
    } else if (rest[i].startsWith('--')) return `there is no option ${rest[i]}`;
    else options.files.push(rest[i]);
  }
  return options.files.length === 0 ? 'name at least one file' : options;
}
