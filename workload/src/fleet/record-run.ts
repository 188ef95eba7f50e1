import { randomBytes } from 'node:crypto';
import { readPlan, type LoadPlanInput } from '@tromix/core/load/plan';
import type { LoadRun } from '@tromix/core/load/run-file';
import { Samples } from '@tromix/core/load/samples';
import { runResource, spanOf } from '@tromix/core/load/spans';
import type { Span } from '@tromix/core/trace/span';
import { sendRun } from '@tromix/load/send';

/** Makes a load run, and gives it with the spans that its driver would send. */
export async function recordRun(input: LoadPlanInput): Promise<{ run: LoadRun; spans: Span[] }> {
  const read = readPlan(input);
  if (!read.ok) throw new Error(read.message);
  const { plan } = read;
  const key = randomBytes(8).toString('hex');
  const run: LoadRun = {
    key,
    name: plan.name,
    startedAtUs: 0,
    endUs: 0,
    end: 'done',
    plan,
    samples: new Samples()
  };
  const ended = await sendRun({
    key,
    plan,
    targets: [],
    signal: new AbortController().signal,
    onBegin: (atUs) => (run.startedAtUs = atUs),
    onSample: (sample) => run.samples.add(sample)
  });
  Object.assign(run, ended);
  const resource = runResource(run);
  const spans = Array.from({ length: run.samples.length }, (_, i) =>
    spanOf(resource, plan, run.startedAtUs, run.samples.at(i))
  );
  return { run, spans };
}
