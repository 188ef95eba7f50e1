import os from 'node:os';
import { setTimeout as wait } from 'node:timers/promises';
import { InvalidArgumentError } from 'commander';
import { EXIT, type Define } from '../command';
import { HostReader } from '../host/host-reader';
import { metricsRequest } from '../host/otlp-metrics';
import { endpointFrom, tokenFrom } from '../run/environment';

interface HostOptions {
  name: string;
  to?: string;
  every: number;
  processes: number;
  print?: boolean;
}

/** Longest wait for an answer, milliseconds: the next reading is due by then. */
const ANSWER_MS = 5000;

const within =
  (least: number, most: number) =>
  (text: string): number => {
    const number = Number(text);
    if (!/^\d+$/.test(text) || number < least || number > most)
      throw new InvalidArgumentError(`expected a whole number from ${least} to ${most}`);
    return number;
  };

export const defineHost: Define = (command, outcome) => {
  command
    .option('--name <name>', 'name of the host (default: as the machine calls itself)', os.hostname())
    .option(
      '--to <url>',
      'where counters go, any OTLP address over HTTP (default: OTEL_EXPORTER_OTLP_ENDPOINT, or http://127.0.0.1:4380)'
    )
    .option('--every <seconds>', 'read and send so often', within(1, 3600), 10)
    .option(
      '--processes <number>',
      'tell of so many by processor, memory and storage each',
      within(0, 200),
      15
    )
    .option('--print', 'read twice, a second apart, print what would be sent, and end')
    .addHelpText(
      'after',
      `
Sends processors by what they do, memory, disks, network and file systems of this machine, and the processes that use most, as OTLP metrics.
On Linux processes also say how long they waited for a core, what they read and write, and how many files they hold open.`
    )
    .action(async ({ name, to, every, processes, print }: HostOptions) => {
      const reader = new HostReader(name, processes);
      if (print) {
        await reader.read(Date.now());
        await wait(1000);
        console.log(JSON.stringify(metricsRequest(await reader.read(Date.now()), Date.now()), null, 1));
        return;
      }
      outcome.code = await sendUntilStopped(reader, to ?? endpointFrom(process.env), every * 1000);
    });
};

async function sendUntilStopped(reader: HostReader, endpoint: string, everyMs: number): Promise<number> {
  const stop = new AbortController();
  for (const signal of ['SIGINT', 'SIGTERM'] as const) process.once(signal, () => stop.abort());
  const address = `${endpoint.replace(/\/$/, '')}/v1/metrics`;
  console.log(`Sends this host’s counters to ${address} every ${everyMs / 1000} s. Ctrl+C ends it.`);
  let said = '';
  while (!stop.signal.aborted) {
    const begun = Date.now();
    const problem = await sendOnce(reader, address);
    // The same trouble is told once, and when it is over.
    if (problem !== said) console.error(problem || 'It is taken again.');
    said = problem;
    await wait(Math.max(0, begun + everyMs - Date.now()), undefined, { signal: stop.signal }).catch(
      () => undefined
    );
  }
  return EXIT.ok;
}

/** @returns what went wrong; '' where nothing did */
async function sendOnce(reader: HostReader, address: string): Promise<string> {
  const atMs = Date.now();
  const body = JSON.stringify(metricsRequest(await reader.read(atMs), atMs));
  const token = tokenFrom(process.env);
  try {
    const response = await fetch(address, {
      method: 'POST',
      body,
      headers: {
        'content-type': 'application/json',
        ...(token && { authorization: `Bearer ${token}` })
      },
      redirect: 'error',
      signal: AbortSignal.timeout(ANSWER_MS)
    });
    const answer = await response.text();
    if (!response.ok) return `Not taken: ${response.status} ${answer.slice(0, 300)}`;
    return partlyRefused(answer);
  } catch (cause) {
    return `Not sent: ${(cause as Error).cause instanceof Error ? ((cause as Error).cause as Error).message : (cause as Error).message}.`;
  }
}

/** What a server says it did not take (OTLP, “Partial Success”). */
function partlyRefused(answer: string): string {
  try {
    const { partialSuccess } = JSON.parse(answer) as {
      partialSuccess?: { rejectedDataPoints?: string | number; errorMessage?: string };
    };
    return Number(partialSuccess?.rejectedDataPoints ?? 0) > 0
      ? `Partly taken: ${partialSuccess?.errorMessage ?? ''}`
      : '';
  } catch {
    return '';
  }
}
