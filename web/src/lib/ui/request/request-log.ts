import { leastSeverity, type LogState } from '$lib/ui/logs/log-state';
import type { StoredLog } from '$lib/server/queries/request-page';
import type { RequestModel } from './request-model';

/** A record of a request's log on the axis of its timeline. */
export interface TimedLog {
  key: string;
  /** '' for a record that names no span of the trace. */
  spanId: string;
  /** Nanoseconds from the start of the request, by the clock of the timeline. */
  at: number;
  severity: number;
  body: string;
  service: string;
}

/** Log records in order of time. Clocks of services that go differently are set as those of their spans. */
export function timedLogs(model: RequestModel, logs: readonly StoredLog[]): TimedLog[] {
  const { tree } = model.trace;
  return logs
    .map(([spanId, atUs, atNs, severity, body, service], i): TimedLog => {
      const node = model.byId.get(spanId);
      const shift = tree.shift[node ?? model.root];
      return {
        key: String(i),
        spanId: node === undefined ? '' : spanId,
        at: (atUs - tree.baseUs) * 1000 + atNs + shift - tree.start[model.root],
        severity,
        body,
        service: service || (node === undefined ? '' : tree.nodes[node].span.resource.service)
      };
    })
    .sort((a, b) => a.at - b.at);
}

/** Those in which a text stands, in letters of any case, of a severity or a graver one. */
export function soughtLogs(
  logs: readonly TimedLog[],
  { text, level }: Pick<LogState, 'text' | 'level'>
): TimedLog[] {
  const sought = text.trim().toLowerCase();
  const least = leastSeverity(level);
  return logs.filter(
    ({ severity, body, service }) => severity >= least && `${service} ${body}`.toLowerCase().includes(sought)
  );
}
