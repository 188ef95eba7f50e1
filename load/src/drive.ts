import http from 'node:http';
import { setTimeout as sleep } from 'node:timers/promises';

export interface LoadOptions {
  /** Where the requests go; on the loopback range only. */
  address: string;
  users: number;
  /** Seconds over which the users join, one after another. */
  rampUpSeconds: number;
  /** Rounds each user makes. */
  loops: number;
  /** Mean pause between two requests of a user, seconds. */
  thinkSeconds: number;
  /** What users do, and how often. */
  steps: readonly Step[];
  signal?: AbortSignal;
}

export interface LoadResult {
  requests: number;
  failed: number;
}

/** One request a user may send. */
export interface Step {
  /** How often, against the other steps. */
  weight: number;
  method: 'GET' | 'POST';
  path: () => string;
  body?: () => unknown;
  /** Sent so many at once. */
  burst?: number;
}

const LOOPBACK = /^http:\/\/(?:127(?:\.\d{1,3}){3}|localhost|\[::1\])(?::\d+)?$/;

/** Sends requests as so many users would. Ends after the loops, or when aborted. */
export async function driveLoad(options: LoadOptions): Promise<LoadResult> {
  if (!LOOPBACK.test(options.address))
    throw new Error(
      `The load driver only sends to this machine's loopback range, not to ${options.address}.`
    );
  const result: LoadResult = { requests: 0, failed: 0 };
  const agent = new http.Agent({ keepAlive: true });
  const user = async (index: number): Promise<void> => {
    await sleep((options.rampUpSeconds * 1000 * index) / Math.max(1, options.users));
    for (let loop = 0; loop < options.loops && !options.signal?.aborted; loop++) {
      const step = pick(options.steps);
      const answers = await Promise.all(
        Array.from({ length: step.burst ?? 1 }, () => send(options.address, step, agent))
      );
      result.requests += answers.length;
      result.failed += answers.filter((answered) => !answered).length;
      await sleep(options.thinkSeconds * 1000 * (0.4 + Math.random() * 1.2));
    }
  };
  await Promise.all(Array.from({ length: options.users }, (_, i) => user(i)));
  agent.destroy();
  return result;
}

function pick(steps: readonly Step[]): Step {
  let at = Math.random() * steps.reduce((sum, step) => sum + step.weight, 0);
  return steps.find((step) => (at -= step.weight) < 0) ?? steps[0];
}

function send(address: string, step: Step, agent: http.Agent): Promise<boolean> {
  return new Promise((resolve) => {
    const request = http.request(
      `${address}${step.path()}`,
      { method: step.method, agent, timeout: 30_000 },
      (response) => {
        response.resume();
        response.on('end', () => resolve((response.statusCode ?? 500) < 400));
        response.on('error', () => resolve(false));
      }
    );
    request.on('error', () => resolve(false));
    request.on('timeout', () => request.destroy());
    request.end(step.body ? JSON.stringify(step.body()) : undefined);
  });
}
