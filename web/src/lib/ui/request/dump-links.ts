import { ruleText } from '@tromix/core/findings/all-rules';
import type { Finding } from '@tromix/core/findings/finding';
import type { CoveringDump } from '$lib/server/queries/request-page';
import { dumpsDuring } from './dumps-during';
import type { RequestModel } from './request-model';

/** Where the threads that a request waited for may be seen. */
export interface DumpLink {
  text: string;
  path: string;
  /** Change of the scope. */
  scope: { service?: string; host?: string; from?: number; to?: number };
  extra: Record<string, string>;
}

/** Dumps this much before or after may still show who held a lock. */
const AROUND_MS = 5 * 60_000;

/** From a wait for a lock to the thread dumps of that process and time; empty for other findings. */
export function dumpLinks(model: RequestModel, finding: Finding, dumps: readonly CoveringDump[]): DumpLink[] {
  if (ruleText(finding.rule)?.seeAlso !== 'threads') return [];
  const { tree } = model.trace;
  const waiting = new Set(finding.evidence.spanIds);
  const node = tree.nodes.findIndex(({ span }) => waiting.has(span.spanId));
  if (node < 0) return [];
  const { service, host } = tree.nodes[node].span.resource;
  const covering = dumpsDuring(model, dumps).filter(
    ({ dump }) =>
      (dump.service === '' || dump.service === service) && (dump.host === '' || dump.host === host)
  );
  if (covering.length > 0)
    return covering.map(({ dump, threads: [thread] }) => ({
      text: thread ? `${thread} in the dump` : 'The dump taken during it',
      path: `/threads/${dump.id}`,
      scope: {},
      extra: (thread ? { named: thread } : {}) as Record<string, string>
    }));
  const startMs = tree.baseUs / 1000 + (tree.start[node] - tree.shift[node]) / 1e6;
  const endMs = tree.baseUs / 1000 + (tree.end[node] - tree.shift[node]) / 1e6;
  return [
    {
      text: 'Thread dumps around that time',
      path: '/threads',
      scope: {
        service,
        host,
        from: Math.floor(startMs - AROUND_MS),
        to: Math.ceil(endMs + AROUND_MS)
      },
      extra: {}
    }
  ];
}
