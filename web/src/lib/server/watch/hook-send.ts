import { createHmac } from 'node:crypto';
import { refusedTarget, type Target } from '@tromix/load/targets';

/** A receiver that takes longer is not answering. */
const WITHIN_MS = 10_000;
/** Of what it answers so much is told. */
const TOLD_CHARACTERS = 200;

/** What became of one try. */
export interface Sent {
  ok: boolean;
  /** HTTP status of the answer; 0 for none. */
  status: number;
  message: string;
  /** Whether another try may succeed. */
  again: boolean;
}

/** Why nothing is sent to an address; '' where it may be. */
export const refusedHook = (url: string, targets: readonly Target[]): string =>
  refusedTarget(url, targets, { what: 'Notices are only sent', setting: 'TROMIX_HOOK_TARGETS' });

/**
 * Signs what is sent, so that its receiver knows who sent it, and when.
 * Source: Standard Webhooks 1.0.0: HMAC-SHA256 of `id.timestamp.body`, base64, after `v1,`. Checked with its reference library.
 * @param secret base64 @param seconds since the epoch
 */
export function signature(secret: string, id: string, seconds: number, body: string): string {
  const key = Buffer.from(secret, 'base64');
  return `v1,${createHmac('sha256', key).update(`${id}.${seconds}.${body}`).digest('base64')}`;
}

/** Sends one notice. It goes nowhere but to the address that was named: a redirect is not followed. */
export async function sendHook(
  { id, url, secret, body }: { id: string; url: string; secret: string; body: string },
  targets: readonly Target[],
  nowMs: number,
  withinMs = WITHIN_MS
): Promise<Sent> {
  const refused = refusedHook(url, targets);
  if (refused) return { ok: false, status: 0, message: refused, again: false };
  const seconds = Math.floor(nowMs / 1000);
  try {
    const response = await fetch(url, {
      method: 'POST',
      redirect: 'manual',
      signal: AbortSignal.timeout(withinMs),
      headers: {
        'content-type': 'application/json',
        'user-agent': 'tromix',
        'webhook-id': id,
        'webhook-timestamp': String(seconds),
        'webhook-signature': signature(secret, id, seconds, body)
      },
      body
    });
    const said = await beginningOf(response);
    const { status } = response;
    if (status >= 300 && status < 400)
      return {
        ok: false,
        status,
        message: `It redirects to ${response.headers.get('location') ?? 'another address'}; redirects are not followed. Name the final address.`,
        again: false
      };
    return response.ok
      ? { ok: true, status, message: '', again: false }
      : {
          ok: false,
          status,
          message: `It answered with status ${status}${said ? `: ${said}` : '.'}`,
          again: true
        };
  } catch (cause) {
    return { ok: false, status: 0, message: wordsOf(cause, withinMs), again: true };
  }
}

/** What it answers at first; the rest is not waited for. */
async function beginningOf(response: Response): Promise<string> {
  const reader = response.body?.getReader();
  if (!reader) return '';
  const { value } = await reader.read();
  await reader.cancel().catch(() => undefined);
  return value ? new TextDecoder().decode(value).slice(0, TOLD_CHARACTERS).trim() : '';
}

function wordsOf(cause: unknown, withinMs: number): string {
  const error = cause as Error & { cause?: NodeJS.ErrnoException };
  if (error.name === 'TimeoutError') return `It did not answer within ${withinMs / 1000} s.`;
  return `It cannot be reached: ${error.cause?.code ?? error.cause?.message ?? error.message}.`;
}

/** Pauses before another try: in all about 22 hours. Each is drawn out by up to a tenth, so that what failed together does not come back together. */
const PAUSES_S = [10, 60, 300, 900, 3600, 10_800, 21_600, 43_200];

/** When it is tried again, milliseconds from now; null once it is given up. @param tries so far */
export function pauseAfter(tries: number, random = Math.random()): number | null {
  const seconds = PAUSES_S[tries - 1] as number | undefined;
  return seconds === undefined ? null : seconds * 1000 * (1 + random / 10);
}
