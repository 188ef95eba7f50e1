import { MOMENTS, RESOURCE } from '@tromix/core/pages/wire';
import type { SentEvent, Value } from './otlp';

type Timing = PerformanceResourceTiming & {
  responseStatus?: number;
  renderBlockingStatus?: string;
};

/** A resource or a task, ready to be written as a span. */
export interface SentSpan {
  name: string;
  startMs: number;
  endMs: number;
  attributes: Record<string, Value>;
  events?: SentEvent[];
}

/** Names of PerformanceResourceTiming that are moments. */
type MomentName = keyof typeof MOMENTS;

/** What W3C Resource Timing tells of a file. One of another origin that does not allow it has a length alone. @param originMs where the load begins on the browser's clock */
export function resourceSpan(entry: Timing, originMs: number): SentSpan {
  const isTold = entry.requestStart > 0;
  const isDocument = entry.entryType === 'navigation';
  return {
    name: isDocument ? 'document' : entry.initiatorType || 'resource',
    startMs: entry.startTime - originMs,
    endMs: (entry.responseEnd || entry.startTime) - originMs,
    attributes: {
      [RESOURCE.url]: entry.name,
      [RESOURCE.initiator]: isDocument ? 'navigation' : entry.initiatorType,
      // 0 is what browsers say where they may not tell, and of what they had.
      [RESOURCE.transferBytes]: isTold ? entry.transferSize : undefined,
      [RESOURCE.status]: entry.responseStatus || undefined,
      [RESOURCE.blocks]: entry.renderBlockingStatus,
      [RESOURCE.answeredBy]: entry.serverTiming?.find(({ name }) => name === 'traceparent')?.description
    },
    events: isTold
      ? (Object.keys(MOMENTS) as MomentName[])
          .filter((name) => entry[name] > 0)
          .map((name) => ({ name, atMs: entry[name] - originMs }))
      : undefined
  };
}
