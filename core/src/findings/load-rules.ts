import { driverLate } from './driver-late';
import { pilesUp } from './piles-up';
import { warmUp } from './warm-up';

/** Every rule about load runs, in the order they are listed. */
export const LOAD_RULES = [driverLate, pilesUp, warmUp] as const;
export type LoadRule = (typeof LOAD_RULES)[number]['rule'];
