import { foregroundChild } from 'foreground-child';
import path from 'node:path';
import type { Define } from '../command';
import { PLACES } from '../places';
import { programAt } from '../run/program';
import { runEnvironment } from '../run/environment';

/** What a shell ends with where there is no such command, and where it may not be started. */
const NO_COMMAND = 127;
const NOT_STARTED = 126;

interface RunOptions {
  service?: string;
  release?: string;
  to?: string;
  inspect: boolean;
  parameters?: boolean;
  print?: boolean;
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
    .option('--print', 'print what it would set, for a start script of your own, and start nothing')
    .passThroughOptions()
    .addHelpText(
      'after',
      `
Node.js programs load the OpenTelemetry SDK before their own code; other runtimes get the OTEL_* environment.
Signals, exit code, arguments and standard streams pass through. Where Tromix does not run, the program runs as ever.`
    )
    .action((words: string[], { service, release, to, inspect, parameters, print }: RunOptions) => {
      const set = runEnvironment(process.env, programAt(process.cwd()), {
        preload: path.join(PLACES.preload, inspect ? 'preload-inspect.cjs' : 'preload.cjs'),
        ...(service === undefined ? {} : { service }),
        ...(release === undefined ? {} : { release }),
        ...(to === undefined ? {} : { to }),
        parameters: parameters === true
      });
      if (print) {
        for (const [name, value] of Object.entries(set)) console.log(`export ${name}=${quoted(value)}`);
        return;
      }
      outcome.code = null;
      start(words, { ...process.env, ...set });
    });
};

/** A value as a POSIX shell reads it. */
const quoted = (value: string): string => `'${value.replaceAll("'", "'\\''")}'`;

function start([program, ...args]: string[], env: NodeJS.ProcessEnv): void {
  let failed: number | undefined;
  const child = foregroundChild(program, args, { env }, () => failed);
  child.on('error', ({ code }: NodeJS.ErrnoException) => {
    failed = code === 'ENOENT' ? NO_COMMAND : NOT_STARTED;
    console.error(
      code === 'ENOENT'
        ? `tromix: there is no command ${program}.`
        : `tromix: ${program} cannot be started (${code}).`
    );
  });
}
