import type { RawSpan } from '../../calls/mask';
import { cutText } from '../../text/well-formed';
import { inTimeRange, MAX_DURATION_NS, TIME_RANGE } from '../../trace/time-range';
import type { Attributes, Resource } from '../../trace/span';
import type { Warnings } from '../evidence-error';
import type { Moment, ValueLimits } from './values';

/** The fields of an OTLP span as they were sent, from protobuf or from JSON. */
export interface SpanFields {
  /** Lower-case hexadecimal; '' where it was no id. */
  traceId: string;
  spanId: string;
  parentId: string;
  name: string;
  kind: number;
  begin: Moment | null;
  finish: Moment | null;
  status: number;
  statusMessage: string;
  attributes: Attributes;
  events: { name: string; at: Moment | null; attributes: Attributes }[];
}

/** @returns the span, or the reason it is rejected. */
export function spanFrom(
  fields: SpanFields,
  resource: Resource,
  limits: ValueLimits,
  warnings: Warnings
): RawSpan | string {
  const { traceId, spanId, parentId, begin, finish, kind, status, attributes } = fields;
  if (!traceId) return 'trace id is not 16 non-zero bytes';
  if (!spanId) return 'span id is not 8 non-zero bytes';
  if (!begin) return 'start time is missing or no time';
  if (!inTimeRange(begin.us)) return `start time is outside ${TIME_RANGE}`;
  if (finish && !inTimeRange(finish.us)) return `end time is outside ${TIME_RANGE}`;
  let durationNs = finish ? distanceNs(begin, finish) : 0;
  if (durationNs > MAX_DURATION_NS) return 'it lasts longer than 100 days';
  if (!finish) warnings.add('no-end', 'A span has no end time; it was given no length.');
  else if (durationNs < 0) {
    warnings.add('ends-before-start', 'A span ends before it starts; it was given no length.');
    durationNs = 0;
  }
  return {
    traceId,
    spanId,
    parentId,
    name: cutTo(fields.name, limits),
    kind: kind >= 0 && kind <= 5 ? kind : 0,
    startUs: begin.us,
    startNs: begin.ns,
    durationNs,
    status: status === 1 || status === 2 ? status : 0,
    statusMessage: cutTo(fields.statusMessage, limits),
    attributes,
    events: fields.events.map(({ name, at, attributes: own }) => ({
      name,
      offsetNs: at ? offsetOf(begin, at, warnings) : 0,
      attributes: own
    })),
    resource
  };
}

const distanceNs = (from: Moment, to: Moment): number => (to.us - from.us) * 1000 + (to.ns - from.ns);
const cutTo = (text: string, { valueLength }: ValueLimits): string => cutText(text, valueLength);

/** An event far from its span says nothing of when it was. */
function offsetOf(begin: Moment, at: Moment, warnings: Warnings): number {
  const offsetNs = distanceNs(begin, at);
  if (inTimeRange(at.us) && Math.abs(offsetNs) <= MAX_DURATION_NS) return offsetNs;
  warnings.add('event-time', 'An event is more than 100 days from its span; it was put at the span’s start.');
  return 0;
}
