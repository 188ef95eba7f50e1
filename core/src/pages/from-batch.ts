import type { RawSpan } from '../calls/mask';
import type { TraceBatch } from '../formats/otlp/traces';
import { groupBy } from '../group-by';
import { maskStack, maskText } from '../mask/text';
import { numberOf } from '../trace/span';
import { isPageLoad, loadFromSpans, MAX_OPEN_MS } from './from-spans';
import type { ToldLoad } from './merge-parts';
import { LOAD } from './wire';

export interface SentParts {
  parts: ToldLoad[];
  /** What is none, by reason; counted in spans. */
  rejected: { reason: string; count: number }[];
}

const NO_LOAD = 'span belongs to no page load';
const NO_TIME = `page load does not say when it was sent, as ${LOAD.sentMs}, from 0 to 7 days`;

/**
 * The parts of page loads that a batch brings, masked. Browsers' clocks are off: a load began as long before it was received as the browser says.
 * @param receivedUs when the batch was received, epoch microseconds
 */
export function partsFromBatch({ spans, rejected }: TraceBatch, receivedUs: number): SentParts {
  const parts: ToldLoad[] = [];
  const counts = new Map<string, number>();
  const reject = (reason: string, count: number): void =>
    void counts.set(reason, (counts.get(reason) ?? 0) + count);
  for (const of of groupBy(spans, ({ traceId }) => traceId).values()) {
    const root = of.find(isPageLoad);
    if (!root) {
      reject(NO_LOAD, of.length);
      continue;
    }
    const part = partFrom(of, root, receivedUs);
    if (part) parts.push(part);
    else reject(NO_TIME, of.length);
  }
  return { parts, rejected: [...rejected, ...[...counts].map(([reason, count]) => ({ reason, count }))] };
}

function partFrom(spans: readonly RawSpan[], { attributes }: RawSpan, receivedUs: number): ToldLoad | null {
  const sentMs = numberOf(attributes, LOAD.sentMs);
  if (sentMs === undefined || !(sentMs >= 0 && sentMs <= MAX_OPEN_MS)) return null;
  const load = loadFromSpans(spans, Math.round(receivedUs - sentMs * 1000));
  if (!load) return null;
  for (const error of load.errors) {
    error.message = maskText(error.message, 'message');
    error.stack = maskStack(error.stack);
  }
  for (const step of load.steps) step.label = maskText(step.label, 'message');
  const part = numberOf(attributes, LOAD.part) ?? 1;
  return { load, part: Number.isInteger(part) && part > 0 && part < 2 ** 31 ? part : 1 };
}
