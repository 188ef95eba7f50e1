import { InvalidArgumentError } from 'commander';
import path from 'node:path';
import type { Define } from '../command';
import { PLACES } from '../places';
import { programAt } from '../run/program';
import { CrashWatch } from '../run/crash-watch';
import { runEnvironment } from '../run/environment';
import { runInForeground } from '../run/foreground';
import { EvidenceSender } from '../run/send-evidence';

/** What a shell ends with where there is no such command, and where it may not be started. */
const NO_COMMAND = 127;
const NOT_STARTED = 126;

interface RunOptions {
  service?: string;
  release?: string;
  to?: string;
  inspect: boolean;
  parameters?: boolean;
  serverTiming?: boolean;
  print?: boolean;
  crashes: boolean;
  stderr: boolean;
  heapDumps?: number;
  heapDumpsFor: number;
  keepDays: number;
}

/** A whole number from 1 on. */
function count(text: string): number {
  if (!/^[1-9]\d{0,3}$/.test(text)) throw new InvalidArgumentError('expected a whole number from 1 to 9999');
  return Number(text);
}

export const defineRun: Define = (command, outcome) => {
  command
    .usage('[options] -- <command...>')
    .argument('<command...>', 'the program as it is started otherwise, with its arguments')
    .option('--service <name>', 'service name (default: OTEL_SERVICE_NAME, or the name in package.json)')
    .option('--release <name>', 'release (default: the version in package.json and the revision)')
    .option('--to <url>', 'where traces go (default: OTEL_EXPORTER_OTLP_ENDPOINT, or http://127.0.0.1:4380)')
    .option('--no-inspect', 'leave the inspector closed, so that the recorder does not find the program')
    .option('--parameters', 'record the parameters of statements too, not only whether they are the same')
    .option(
      '--server-timing',
      'say in each HTTP answer which request it is, so that page loads lead to it (adds the header Server-Timing)'
    )
    .option('--no-crashes', 'hand nothing over where the program crashes')
    .option('--no-stderr', 'leave the standard error alone: the last lines of a crash are not told then')
    .option(
      '--heap-dumps <number>',
      'take so many heap dumps where a Node.js program runs out of memory',
      count
    )
    .option('--heap-dumps-for <days>', 'for so many days from the start', count, 7)
    .option('--keep-days <days>', 'keep crashes and their heap dumps so long', count, 15)
    .option('--print', 'print what it would set, for a start script of your own, and start nothing')
    .passThroughOptions()
    .addHelpText(
      'after',
      `
Node.js programs load the OpenTelemetry SDK before their own code; other runtimes get the OTEL_* environment.
Signals, exit code, arguments and standard streams pass through. Where Tromix does not run, the program runs as ever.`
    )
    .action((words: string[], options: RunOptions) => {
      const { service, release, to, inspect, parameters, serverTiming, print } = options;
      const set = runEnvironment(process.env, programAt(process.cwd()), {
        preload: path.join(PLACES.preload, inspect ? 'preload-inspect.cjs' : 'preload.cjs'),
        ...(service === undefined ? {} : { service }),
        ...(release === undefined ? {} : { release }),
        ...(to === undefined ? {} : { to }),
        parameters: parameters === true,
        serverTiming: serverTiming === true
      });
      if (print) {
        for (const [name, value] of Object.entries(set)) console.log(`export ${name}=${quoted(value)}`);
        return;
      }
      outcome.code = null;
      start(words, { ...process.env, ...set }, options);
    });
};

/** A value as a POSIX shell reads it. */
const quoted = (value: string): string => `'${value.replaceAll("'", "'\\''")}'`;

const DAY_MS = 86_400_000;

function start(words: readonly string[], env: NodeJS.ProcessEnv, options: RunOptions): void {
  const { crashes, stderr, heapDumps, heapDumpsFor, keepDays } = options;
  const watch = crashes ? new CrashWatch(new EvidenceSender(env, keepDays), words, heapDumps ?? 0) : null;
  const watched = watch ? { ...env, TROMIX_RUN_ENDS: watch.folder } : env;
  if (watch && heapDumps !== undefined) {
    watched.NODE_OPTIONS = `${env.NODE_OPTIONS ?? ''} --diagnostic-dir="${watch.folder}"`.trim();
    watched.TROMIX_RUN_HEAP_DUMPS = `${heapDumps} ${Date.now() + heapDumpsFor * DAY_MS}`;
  }
  const child = runInForeground(words, watched, crashes && stderr, async (how) => watch?.ended(how));
  if (watch && child.pid) watch.child = child.pid;
  child.on('error', ({ code }: NodeJS.ErrnoException) => {
    console.error(
      code === 'ENOENT'
        ? `tromix: there is no command ${words[0]}.`
        : `tromix: ${words[0]} cannot be started (${code}).`
    );
    watch?.close();
    process.exit(code === 'ENOENT' ? NO_COMMAND : NOT_STARTED);
  });
}
