import { randomBytes } from 'node:crypto';
import { writeFileSync } from 'node:fs';
import { Worker } from 'node:worker_threads';
import { inspectRun } from '@tromix/core/inspect/load';
import { maskedPlan, missingParts } from '@tromix/core/load/masked-plan';
import { runName, type LoadPlan } from '@tromix/core/load/plan';
import { writeRun, type LoadRun } from '@tromix/core/load/run-file';
import { Samples } from '@tromix/core/load/samples';
import { formatCount, formatDuration } from '@tromix/core/text/format';
import { startSending } from '@tromix/load/sending-thread';
import type { SenderData, SenderMessage, SenderOrder } from '@tromix/load/sender-thread';
import { readTargets, refusedStep, type Target } from '@tromix/load/targets';
import { EXIT, type Define } from '../command';
import { Delivery } from '../load/deliver';
import { loadLines } from '../load-lines';
import { duration, header, number, planFrom, statuses, type PlanOptions } from '../load/plan-options';
import { PLACES } from '../places';
import { endpointFrom, tokenFrom } from '../run/environment';

interface LoadOptions extends PlanOptions {
  to?: string;
  keep: boolean;
  save?: string;
  json?: boolean;
}

export const defineLoad: Define = (command, outcome) => {
  command
    .argument('[url]', 'address to send to')
    .option('--users <n>', 'users, who wait for answers before they go on (default: 1)', number)
    .option('--ramp-up <length>', 'over which users join, or the rate rises (default: 0s)', duration)
    .option('--loops <n>', 'how often each user does it all (default: 1)', number)
    .option('--length <length>', 'instead of loops', duration)
    .option('--rate <n>', 'arrivals per second, answered or not, instead of users', number)
    .option('--pause <length>', 'between two loops of a user', duration)
    .option('--method <name>', 'GET, or POST where there is a body')
    .option('--header <line>', 'such as "accept: application/json"; may be given again', header, [])
    .option('--body <text>', 'or @FILE')
    .option('--expect <statuses>', 'that are no failure (default: all below 400)', statuses, [])
    .option('--timeout <length>', 'of one request (default: 30s)', duration)
    .option('--give-up <n>', 'after so many failures in a row; 0 never (default: 100)', number)
    .option('--no-follow', 'take redirects for answers')
    .option('--plan <file>', 'a whole plan as JSON, with several steps')
    .option('--curl <line>', 'the request of a line of curl; - reads it from standard input')
    .option('--har <file>', 'the requests of an HTTP Archive')
    .option('--name <text>', 'what the run is called')
    .option('--save <file>', 'write the run as JSON')
    .option('--to <url>', 'Tromix (default: OTEL_EXPORTER_OTLP_ENDPOINT, or http://127.0.0.1:4380)')
    .option('--no-keep', 'send nothing to Tromix')
    .option('--json', 'one JSON document on standard output')
    .addHelpText(
      'after',
      `
Numbers such as {1..60} in an address or a body are drawn anew each time, the same in every run.
Sends to this machine's loopback range, and to what TROMIX_LOAD_TARGETS names. Exits with 1 where a request failed.`
    )
    .action(async (url: string | undefined, options: LoadOptions) => {
      outcome.code = await load(url, options);
    });
};

async function load(url: string | undefined, options: LoadOptions): Promise<number> {
  const targets = readTargets(process.env.TROMIX_LOAD_TARGETS ?? '');
  if ('wrong' in targets) return refuse(`Invalid TROMIX_LOAD_TARGETS: ${targets.wrong}.`);
  let read: ReturnType<typeof planFrom>;
  try {
    read = planFrom(url, options);
  } catch (cause) {
    const { code, path: file, message } = cause as NodeJS.ErrnoException;
    return refuse(code === 'ENOENT' ? `There is no file ${file}.` : message);
  }
  if (!read.ok) return refuse(read.message);
  const { plan } = read;
  for (const note of read.notes ?? []) console.error(note);
  const refused = missingParts(plan) || refusedStep(plan, targets);
  if (refused) return refuse(refused);
  const delivery = options.keep
    ? new Delivery(options.to ?? endpointFrom(process.env), tokenFrom(process.env))
    : null;
  const run = await send(plan, targets, (soFar) => {
    delivery?.spans(soFar);
    progress(soFar);
  });
  progress(null);
  const kept = (await delivery?.run(run)) ?? false;
  if (options.save) writeFileSync(options.save, writeRun({ ...run, plan: maskedPlan(run.plan) }));
  const inspected = inspectRun({ ...run, plan: maskedPlan(run.plan) });
  if (options.json) console.log(JSON.stringify({ tromix: 1, results: [{ kind: 'load', ...inspected }] }));
  else for (const line of loadLines(inspected)) console.log(line);
  if (delivery && !kept) console.error(`tromix: ${delivery.failure}`);
  return run.end === 'gave-up' || inspected.figures.failed > 0 ? EXIT.failed : EXIT.ok;
}

function refuse(message: string): number {
  console.error(`tromix: ${message}`);
  return EXIT.usage;
}

/** Sends a run in a thread of its own. It is stopped by SIGINT; a second one ends the process at once. */
function send(plan: LoadPlan, targets: Target[], onbatch: (run: LoadRun) => void): Promise<LoadRun> {
  const key = randomBytes(8).toString('hex');
  const name = runName(plan);
  const run: LoadRun = { key, name, startedAtUs: 0, endUs: 0, end: 'cut-off', plan, samples: new Samples() };
  const workerData: SenderData = { key, plan, targets, port: null };
  const thread = startSending((resourceLimits) => new Worker(PLACES.sender, { workerData, resourceLimits }));
  process.once('SIGINT', () => thread.postMessage('stop' satisfies SenderOrder));
  return new Promise((resolve, reject) => {
    thread.once('error', reject);
    thread.on('message', (message: SenderMessage) => {
      if ('begunAtUs' in message) run.startedAtUs = message.begunAtUs;
      else if ('ended' in message) {
        resolve({ ...run, ...message.ended });
        void thread.terminate();
      } else {
        run.samples.addPacked(message.samples);
        run.endUs = Date.now() * 1000 - run.startedAtUs;
        onbatch(run);
      }
    });
  });
}

/** How far a run is, on one line of a terminal; nothing elsewhere. */
function progress(run: LoadRun | null): void {
  if (!process.stderr.isTTY) return;
  process.stderr.write(
    run
      ? `\r\u001b[K${formatCount(run.samples.length)} requests in ${formatDuration(run.endUs * 1000)}`
      : '\r\u001b[K'
  );
}
