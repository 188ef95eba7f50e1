import { invalidate } from '$app/navigation';
import { toast } from 'svelte-sonner';

/** Keeps the traces of a batch that are older than requests are kept. */
export async function keepOldTraces(source: string): Promise<void> {
  const response = await fetch('/api/old-traces', {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ source })
  });
  if (response.ok) toast.success('These traces are kept.');
  else toast.error('The server could not do this. Try again.');
  await invalidate('tromix:evidence');
}
