import { sendAndSay } from '$lib/ui/frame/send';
import { invalidate } from '$app/navigation';

/** Keeps the traces of a batch that are older than requests are kept. */
export async function keepOldTraces(source: string): Promise<void> {
  await sendAndSay('POST', '/api/old-traces', { source }, 'These traces are kept.');
  await invalidate('tromix:evidence');
}
