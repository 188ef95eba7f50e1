import { textOf } from '@tromix/core/trace/span';
import type { CoveringDump } from '$lib/server/queries/request-page';
import type { RequestModel } from './request-model';

/** A dump that was taken while spans of its process ran. */
export interface DumpDuring {
  dump: CoveringDump;
  /** Threads that served those spans, as they name them (`thread.name` of the semantic conventions); empty where they do not. */
  threads: string[];
  /** Time of the request that is booked to locks in those spans, nanoseconds. */
  lockNs: number;
}

/** Dumps taken while a part of the request ran in the process dumped: same service, and same host where the dump has one. */
export function dumpsDuring(model: RequestModel, dumps: readonly CoveringDump[]): DumpDuring[] {
  const { tree } = model.trace;
  return dumps.flatMap((dump) => {
    const threads = new Set<string>();
    let spans = 0;
    let lockNs = 0;
    tree.nodes.forEach(({ span }, node) => {
      const { service, host } = span.resource;
      if ((dump.service && dump.service !== service) || (dump.host && dump.host !== host)) return;
      // The tree's axis is shifted for skew; the dump was taken on the process's own clock.
      const fromUs = tree.baseUs + (tree.start[node] - tree.shift[node]) / 1000;
      const toUs = tree.baseUs + (tree.end[node] - tree.shift[node]) / 1000;
      if (dump.startedAtUs > toUs || dump.startedAtUs + dump.durationNs / 1000 < fromUs) return;
      spans++;
      const name = textOf(span.attributes, 'thread.name');
      if (name) threads.add(name);
      for (const stretch of model.request.stretches)
        if (stretch.node === node && stretch.account === 'lock') lockNs += stretch.to - stretch.from;
    });
    return spans > 0 ? [{ dump, threads: [...threads], lockNs }] : [];
  });
}
