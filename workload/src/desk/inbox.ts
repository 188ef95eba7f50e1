import { createHmac, timingSafeEqual } from 'node:crypto';
import type { IncomingHttpHeaders } from 'node:http';

/** A notice as it came. */
export interface Taken {
  id: string;
  atMs: number;
  type: string;
  severity: string;
  name: string;
  sentence: string;
  /** How often it came: who sends it may not know that it arrived. */
  times: number;
}

/** Older ones may be sent again by somebody who listened. */
const MOST_AGE_S = 300;
const MOST_KEPT = 200;

/** Takes notices that are signed as Standard Webhooks 1.0 says, each once. */
export class Inbox {
  readonly #key: Buffer;
  readonly #taken = new Map<string, Taken>();

  /** @param secret base64 */
  constructor(secret: string) {
    this.#key = Buffer.from(secret, 'base64');
  }

  /** @returns false for what is not signed, or long ago. */
  take(headers: IncomingHttpHeaders, body: string, nowMs: number): boolean {
    const id = String(headers['webhook-id'] ?? '');
    const seconds = String(headers['webhook-timestamp'] ?? '');
    if (id === '' || Math.abs(nowMs / 1000 - Number(seconds)) > MOST_AGE_S) return false;
    const made = createHmac('sha256', this.#key).update(`${id}.${seconds}.${body}`).digest();
    const isSigned = String(headers['webhook-signature'] ?? '')
      .split(' ')
      .some((one) => equal(Buffer.from(one.replace(/^v1,/, ''), 'base64'), made));
    if (!isSigned) return false;
    const known = this.#taken.get(id);
    if (known) known.times++;
    else this.#keep(id, body, nowMs);
    return true;
  }

  #keep(id: string, body: string, atMs: number): void {
    const { type, data } = JSON.parse(body) as {
      type: string;
      data: { watch: { name: string; severity: string }; sentence: string };
    };
    this.#taken.set(id, {
      id,
      atMs,
      type,
      severity: data.watch.severity,
      name: data.watch.name,
      sentence: data.sentence,
      times: 1
    });
    if (this.#taken.size > MOST_KEPT) this.#taken.delete(this.#taken.keys().next().value!);
  }

  /** The newest first. */
  list = (): Taken[] => [...this.#taken.values()].reverse();
}

const equal = (a: Buffer, b: Buffer): boolean => a.length === b.length && timingSafeEqual(a, b);
