import { calledOften } from './called-often';
import { deepRecursion } from './deep-recursion';
import { hotFunction } from './hot-function';
import { pausePressure } from './pause-pressure';
import { thrownForControl } from './thrown-for-control';

/** Every rule about profiles, in the order they are listed. */
export const PROFILE_RULES = [
  hotFunction,
  calledOften,
  deepRecursion,
  thrownForControl,
  pausePressure
] as const;
export type ProfileRule = (typeof PROFILE_RULES)[number]['rule'];
