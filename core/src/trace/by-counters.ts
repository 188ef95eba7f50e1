import type { RequestAccount, TraceAccount } from './requests';

/** What a process told of itself around a request; null for what it does not tell. */
export interface ToldAround {
  host: string;
  /** 0 where it is not told: then it is whatever of the service runs on the host. */
  pid: number;
  service: string;
  /** Share of the time in collections of its runtime. */
  pauses: number | null;
  /** Mean wait for a connection of its pools, seconds, of those that took one. */
  waitedS: number | null;
}

/** Time of a request that its spans book as own code or unseen and that was likely something else, nanoseconds. */
export interface LikelyByCounters {
  pauseNs: number;
  queueNs: number;
}

/**
 * What of a request's own code and unseen time was likely spent in collections, and in waiting for connections: in each process the share of its
 * time, and the mean wait for each database call, by what it told around the request. An estimate: counters tell of seconds, not of a request. Where
 * the trace itself tells of queueing in a process, that counts and not the counters.
 */
export function likelyByCounters(
  { tree }: TraceAccount,
  request: RequestAccount,
  told: readonly ToldAround[]
): LikelyByCounters {
  const likely: LikelyByCounters = { pauseNs: 0, queueNs: 0 };
  for (const process of told) {
    const isOf = (node: number): boolean => {
      const { host, pid, service } = tree.nodes[node].span.resource;
      return (
        host === process.host && service === process.service && (process.pid === 0 || pid === process.pid)
      );
    };
    const stretches = request.stretches.filter(({ node }) => isOf(node));
    const ownNs = stretches
      .filter(({ account }) => account === 'ownCode' || account === 'unseen')
      .reduce((sum, { from, to }) => sum + to - from, 0);
    const pauseNs = ownNs * Math.min(1, process.pauses ?? 0);
    const queues = stretches.some(({ account }) => account === 'queue');
    const calls = request.nodes.filter(
      (node) => tree.nodes[node].call?.kind === 'database' && isOf(node)
    ).length;
    likely.pauseNs += pauseNs;
    if (!queues) likely.queueNs += Math.min(ownNs - pauseNs, calls * (process.waitedS ?? 0) * 1e9);
  }
  return likely;
}
