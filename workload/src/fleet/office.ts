import { randomBytes } from 'node:crypto';
import { readPlan, type LoadPlan, type LoadPlanInput } from '@tromix/core/load/plan';
import { FAULTS } from '@tromix/core/load/samples';
import { sendRun } from '@tromix/load/send';
import { harbourSteps } from './harbour-steps';

/** How the harbour office works. */
export interface OfficeHours {
  users: number;
  rampUpSeconds: number;
  /** Between two things somebody does, on average. */
  pauseSeconds: number;
  signal: AbortSignal;
  /** What they do; else what the harbour office does. */
  steps?: LoadPlanInput['steps'];
}

/** People of the harbour office at work, until they are stopped. Their requests are nobody's load run: they stand for users. */
export async function officeAtWork(
  gateway: string,
  { users, rampUpSeconds, pauseSeconds, signal, steps = harbourSteps(gateway) }: OfficeHours
): Promise<{ requests: number; failed: number }> {
  const read = readPlan({
    steps,
    users,
    rampUpSeconds,
    pauseSeconds,
    pauseSpread: 0.6,
    order: 'one',
    loops: 0,
    seconds: 6 * 3600,
    giveUpAfter: 0,
    seed: randomBytes(4).readUInt32LE()
  });
  if (!read.ok) throw new Error(read.message);
  const result = { requests: 0, failed: 0 };
  while (!signal.aborted) {
    const ended = await sendRun({
      // Nobody sends spans of their wait.
      key: '',
      plan: read.plan satisfies LoadPlan,
      targets: [],
      signal,
      onSample: ({ fault }) => {
        result.requests++;
        if (FAULTS[fault] !== '') result.failed++;
      }
    });
    if (ended.end !== 'done') break;
  }
  return result;
}
