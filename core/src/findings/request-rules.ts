import { blindStretch } from './blind-stretch';
import { chattyCache } from './chatty-cache';
import { chattyMessaging } from './chatty-messaging';
import { chattyRemote } from './chatty-remote';
import { coldStart } from './cold-start';
import { couldRunTogether } from './could-run-together';
import { failedButWaited } from './failed-but-waited';
import type { Finding } from './finding';
import { oneHost } from './one-host';
import { oneSlowCall } from './one-slow-call';
import { queryPerRow } from './query-per-row';
import { retryStorm } from './retry-storm';
import { roundTimeout } from './round-timeout';
import { rowByRowWrites } from './row-by-row-writes';
import { sameCallAgain } from './same-call-again';
import { sinceRelease } from './since-release';
import { tooManyRows } from './too-many-rows';
import { waitsForConnection } from './waits-for-connection';
import { waitsForLock } from './waits-for-lock';

/** Rules about one request, in the order they are listed. */
export const IN_A_REQUEST = [
  queryPerRow,
  rowByRowWrites,
  sameCallAgain,
  chattyRemote,
  chattyCache,
  chattyMessaging,
  waitsForConnection,
  waitsForLock,
  oneSlowCall,
  couldRunTogether,
  tooManyRows,
  roundTimeout,
  blindStretch,
  retryStorm,
  failedButWaited
] as const;

/** Rules about many requests of an endpoint. */
export const OVER_MANY = [oneHost, sinceRelease, coldStart] as const;

/** Every rule about requests, in the order they are listed. */
export const REQUEST_RULES = [...IN_A_REQUEST, ...OVER_MANY] as const;
export type Rule = (typeof REQUEST_RULES)[number]['rule'];
/** A finding about one request. */
export type RequestFinding = Finding<(typeof IN_A_REQUEST)[number]['rule']>;
