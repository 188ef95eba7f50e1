import { toast } from 'svelte-sonner';

/** What the server refused, in its words. */
export class Refusal extends Error {
  /** All it answered: some refusals ask something in turn. */
  readonly answer: unknown;

  constructor(status: number, answer: unknown) {
    super(messageOf(answer) ?? `The server answered with status ${status}.`);
    this.answer = answer;
  }
}

/**
 * Asks the server to change something, or something it answers in JSON.
 * @throws {Refusal} where it refuses
 * @throws {Error} where it is not reached
 */
export async function send<A = unknown>(
  method: 'GET' | 'POST' | 'PUT' | 'PATCH' | 'DELETE',
  url: string,
  body?: unknown,
  signal?: AbortSignal
): Promise<A> {
  let response: Response;
  try {
    response = await fetch(url, {
      method,
      ...(body === undefined
        ? {}
        : { headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) }),
      ...(signal ? { signal } : {})
    });
  } catch (cause) {
    if (signal?.aborted) throw cause;
    throw new Error('The server does not answer. Is it running?', { cause });
  }
  const answer: unknown = response.status === 204 ? null : await response.json().catch(() => null);
  if (!response.ok) throw new Refusal(response.status, answer);
  return answer as A;
}

const messageOf = (answer: unknown): string | undefined =>
  typeof answer === 'object' && answer !== null && 'message' in answer ? String(answer.message) : undefined;

/** Sends something, and says how it went in a toast. @returns whether it was done */
export async function sendAndSay(
  method: 'POST' | 'PUT' | 'DELETE',
  url: string,
  body: unknown,
  done: string
): Promise<boolean> {
  try {
    await send(method, url, body);
    if (done) toast.success(done);
    return true;
  } catch (cause) {
    toast.error((cause as Error).message);
    return false;
  }
}
