import type { MessagePort } from 'node:worker_threads';
import type { LoadPlan } from '@tromix/core/load/plan';
import { packSamples, type Sample } from '@tromix/core/load/samples';
import { sendRun, type Ended } from './send';
import type { Target } from './targets';
import { warmUpDriver } from './warm-up';

/** What a sending thread is started with. */
export interface SenderData {
  key: string;
  plan: LoadPlan;
  targets: Target[];
  /** Where samples go; null for the thread’s parent. */
  port: MessagePort | null;
}

/** What it says: when the run began; some samples, packed, again and again; then how the run ended. */
export type SenderMessage = { begunAtUs: number } | { samples: Float64Array<ArrayBuffer> } | { ended: Ended };
/** What it is told. */
export type SenderOrder = 'stop';

/** Samples are handed on so often: seldom enough not to be a load of its own. */
const EVERY_MS = 200;

/** Sends a run in a thread that does nothing else. @param port where orders come from. */
export async function startSender(
  { key, plan, targets, port }: SenderData,
  parent: MessagePort
): Promise<void> {
  const out = port ?? parent;
  const stopping = new AbortController();
  parent.on('message', (order: SenderOrder) => order === 'stop' && stopping.abort());
  let waiting: Sample[] = [];
  const hand = (): void => {
    if (waiting.length === 0) return;
    const samples = packSamples(waiting);
    waiting = [];
    out.postMessage({ samples } satisfies SenderMessage, [samples.buffer]);
  };
  await warmUpDriver();
  const timer = setInterval(hand, EVERY_MS);
  const ended = await sendRun({
    key,
    plan,
    targets,
    onBegin: (begunAtUs) => out.postMessage({ begunAtUs } satisfies SenderMessage),
    onSample: (sample) => waiting.push(sample),
    signal: stopping.signal
  });
  clearInterval(timer);
  hand();
  out.postMessage({ ended } satisfies SenderMessage);
  port?.close();
  parent.unref();
}
