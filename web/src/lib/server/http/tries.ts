import { createHmac, randomBytes } from 'node:crypto';

/** Wrong tokens from one address before there is a pause. */
const FREE = 5;
const FIRST_PAUSE_MS = 1000;
const LONGEST_PAUSE_MS = 15 * 60_000;
/** What is remembered of an address is forgotten after so long without a wrong token. */
const FORGET_MS = 60 * 60_000;
/** Addresses remembered at most: the ones tried longest ago are forgotten first. */
const MAX_ADDRESSES = 10_000;
/** Wrong tokens remembered of an address, so that one that comes again is not taken for a further guess. */
const MAX_TOKENS = 20;
/** Tokens are remembered by a keyed hash: what comes wrong may be right elsewhere. */
const KEY = randomBytes(32);

interface Tried {
  wrong: number;
  tokens: Set<string>;
  untilMs: number;
  lastMs: number;
}

/**
 * Limits how many tokens are tried from one address: after a few wrong ones each further one costs a pause twice as long. The same one sent
 * again is no further guess: an exporter with an old token does not shut out its neighbours. Times are monotonic.
 */
export class Tries {
  readonly #byAddress = new Map<string, Tried>();

  /** How long an address must wait before it may try again, milliseconds. */
  pauseMs(address: string, nowMs: number): number {
    const tried = this.#byAddress.get(address);
    return tried && nowMs - tried.lastMs < FORGET_MS ? Math.max(0, tried.untilMs - nowMs) : 0;
  }

  wrong(address: string, token: string, nowMs: number): void {
    let tried = this.#byAddress.get(address);
    if (!tried || nowMs - tried.lastMs >= FORGET_MS)
      tried = { wrong: 0, tokens: new Set(), untilMs: 0, lastMs: nowMs };
    tried.lastMs = nowMs;
    const hash = createHmac('sha256', KEY).update(token).digest('base64');
    if (tried.tokens.has(hash)) return;
    tried.tokens.add(hash);
    if (tried.tokens.size > MAX_TOKENS) {
      const [first] = tried.tokens;
      tried.tokens.delete(first);
    }
    tried.wrong++;
    if (tried.wrong > FREE)
      tried.untilMs = nowMs + Math.min(LONGEST_PAUSE_MS, FIRST_PAUSE_MS * 2 ** (tried.wrong - FREE - 1));
    this.#byAddress.delete(address);
    this.#byAddress.set(address, tried);
    if (this.#byAddress.size > MAX_ADDRESSES) {
      const [oldest] = this.#byAddress.keys();
      this.#byAddress.delete(oldest);
    }
  }

  right(address: string): void {
    this.#byAddress.delete(address);
  }
}

/** The tries of this server. */
export const tries = new Tries();

/** What is said to whoever must wait. */
export const waitWords = (ms: number): string =>
  `Too many wrong tokens came from this address. Try again in ${Math.ceil(ms / 1000)} s.`;
