import { deadlock } from './deadlock';
import { lockQueue } from './lock-queue';
import { poolExhausted } from './pool-exhausted';
import { stuckAcrossDumps } from './stuck-across-dumps';

/** Every rule about thread dumps, in the order they are listed. */
export const THREAD_RULES = [lockQueue, deadlock, stuckAcrossDumps, poolExhausted] as const;
export type ThreadRule = (typeof THREAD_RULES)[number]['rule'];
