import { busyHost } from './busy-host';
import { findBy } from './define-rule';
import { diskFillsUp } from './disk-fills-up';
import { eventLoopHeld } from './event-loop-held';
import type { FoundOnHost, HostContext, HostFinding } from './host-finding';
import { memoryFollowsRequests } from './memory-follows-requests';
import { neighbourTakesCpu } from './neighbour-takes-cpu';
import { poolWaits } from './pool-waits';
import { swapping } from './swapping';
import { waitsForCore } from './waits-for-core';

/** Every rule about a host, in the order they are listed. */
export const HOST_RULES = [
  neighbourTakesCpu,
  busyHost,
  waitsForCore,
  poolWaits,
  eventLoopHeld,
  memoryFollowsRequests,
  swapping,
  diskFillsUp
] as const;
export type HostRule = (typeof HOST_RULES)[number]['rule'];

/** Everything the rules find on a host. A neighbour that takes the cores says already that they are busy. */
export function findOnHost(context: HostContext): HostFinding<HostRule>[] {
  const found = findBy<HostRule, HostContext, FoundOnHost>(HOST_RULES, context);
  const hasNeighbour = found.some(({ rule }) => rule === 'neighbour-takes-cpu');
  return found.filter(({ rule }) => !(hasNeighbour && rule === 'busy-host'));
}
