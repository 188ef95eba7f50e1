import { readPlan, type LoadPlanInput } from '../load/plan';
import type { LoadRun } from '../load/run-file';
import { Samples, type Sample } from '../load/samples';

/** A run with these samples; what they do not say is as in a quiet run. */
export function runOf(input: Partial<LoadPlanInput>, samples: readonly Partial<Sample>[]): LoadRun {
  const read = readPlan({ steps: [{ url: 'http://127.0.0.1:3000/board' }], ...input });
  if (!read.ok) throw new Error(read.message);
  const columns = new Samples();
  let endUs = 0;
  for (const [number, given] of samples.entries()) {
    const sample = {
      number,
      step: 0,
      user: 0,
      intendedUs: 0,
      lateUs: 0,
      durationUs: 0,
      status: 200,
      bytes: 2,
      fault: 0,
      ...given
    };
    columns.add(sample);
    endUs = Math.max(endUs, sample.intendedUs + sample.lateUs + sample.durationUs);
  }
  return {
    key: 'abcdef0123456789',
    name: 'board',
    startedAtUs: 1_795_000_000_000_000,
    endUs,
    end: 'done',
    plan: read.plan,
    samples: columns
  };
}

/**
 * A server that serves so many at once, each for a fixed time, and users who each ask again as soon as they are answered: what a closed model measures
 * of it, worked out request by request.
 */
export function queueRun(
  input: Partial<LoadPlanInput>,
  { servers, serviceUs }: { servers: number; serviceUs: number }
): LoadRun {
  const { plan } = runOf(input, []);
  const free = new Array<number>(servers).fill(0);
  const next = Array.from(
    { length: plan.users },
    (_, user) => (plan.rampUpSeconds * 1e6 * user) / plan.users
  );
  const left = new Array<number>(plan.users).fill(plan.loops);
  const samples: Partial<Sample>[] = [];
  for (;;) {
    const user = next.reduce((best, at, i) => (left[i] > 0 && (best < 0 || at < next[best]) ? i : best), -1);
    if (user < 0) break;
    const server = free.indexOf(Math.min(...free));
    const begun = Math.max(next[user], free[server]);
    free[server] = begun + serviceUs;
    samples.push({ user, intendedUs: next[user], durationUs: free[server] - next[user] });
    next[user] = free[server];
    left[user]--;
  }
  return runOf(input, samples);
}
