import type { RequestAccount } from './requests';
import type { TraceTree } from './tree';

/**
 * The time in which a request computed itself, by the clock of the process that served it: the stretches of its account that are own code, also where
 * nothing was recorded inside. Times of a trace may have been shifted between processes; a profile of the process knows nothing of that.
 * @param originUs epoch microseconds from which the stretches are told
 * @returns begin and end by turns, nanoseconds, in time order
 */
export function ownTime(tree: TraceTree, request: RequestAccount, originUs: number): Float64Array {
  const { resource } = tree.nodes[request.node].span;
  const own: number[] = [];
  for (const { node, from, to, account } of request.ownStretches) {
    const { span } = tree.nodes[node];
    // A call that this process made is not computed here, whoever booked it.
    if ((account !== 'ownCode' && account !== 'unseen') || span.resource.key !== resource.key) continue;
    const begin = (span.startUs - originUs) * 1000 + span.startNs + (from - tree.start[node]);
    own.push(begin, begin + (to - from));
  }
  return Float64Array.from(own);
}
