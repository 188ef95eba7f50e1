import type { Attributes, Span, SpanEvent } from '../trace/span';
import { exceptionsOf, failed, recordedException } from './failed-span';
import { identityOf, type FailureIdentity, type RecordedException } from './identity';
import { messageTemplate } from './message-template';

/** A log record as far as it tells of a failure. */
export interface LoggedFailure {
  /** '' where the record names no span. */
  spanId: string;
  /** Key of the process that wrote it. */
  process: string;
  /** Epoch microseconds, and the nanoseconds (0 to 999) beyond them. */
  atUs: number;
  atNs: number;
  body: string;
  attributes: Attributes;
}

/** `SeverityNumber` from which a record tells of an error (OpenTelemetry, Logs Data Model, "Field: SeverityNumber"). */
export const ERROR_SEVERITY = 17;

const namesException = (attributes: Attributes): boolean =>
  attributes.has('exception.type') || attributes.has('exception.message');

/** Whether a log record tells of a failure: it names an exception, or its severity is ERROR or above. */
export const logTellsOfFailure = (record: { severity: number; attributes: Attributes }): boolean =>
  record.severity >= ERROR_SEVERITY || namesException(record.attributes);

/** What a log record says was thrown; one that names no exception says it in its body. */
export function loggedException({
  body,
  attributes
}: Pick<LoggedFailure, 'body' | 'attributes'>): RecordedException {
  const recorded = recordedException(attributes);
  return namesException(attributes) ? recorded : { ...recorded, message: body };
}

/** What tells the failure of a record from others that was written outside of every trace. */
export function loggedIdentity(
  service: string,
  record: Pick<LoggedFailure, 'body' | 'attributes'>
): FailureIdentity {
  const told = identityOf(loggedException(record));
  return told.function || told.file ? told : { ...told, endpoint: `${service}: outside of requests` };
}

/**
 * The spans of one trace, with what its log records tell of failures as exception events of the spans they were written in: one that names no span, or none of these, goes to the outermost of
 * its process, else of the trace. A record that repeats an exception a span on its way tells of adds nothing; neither does one that names no exception, where its span or one below
 * it failed already.
 */
export function withLoggedFailures(
  spans: readonly Span[],
  records: readonly LoggedFailure[]
): readonly Span[] {
  if (records.length === 0 || spans.length === 0) return spans;
  const trace = new TraceWithLogs(spans);
  for (const record of records.slice(0, MAX_RECORDS)) trace.take(record);
  return trace.spans();
}

/** More records of one trace add no failures. */
const MAX_RECORDS = 500;
/** So far up the calls of one service an exception is followed. */
const MAX_CLIMB = 200;

class TraceWithLogs {
  readonly #spans: readonly Span[];
  readonly #byId: Map<string, Span>;
  readonly #added = new Map<Span, SpanEvent[]>();
  /** What spans themselves tell of: of a span that failed without an exception an empty list. */
  readonly #own = new Map<Span, RecordedException[]>();
  /** Spans that tell of a failure, by those in which they ran; they themselves among them. */
  readonly #within = new Map<Span, Span[]>();

  constructor(spans: readonly Span[]) {
    this.#spans = spans;
    this.#byId = new Map(spans.map((span) => [span.spanId, span]));
    for (const span of spans) {
      const exceptions = exceptionsOf(span).map(({ exception }) => exception);
      if (exceptions.length > 0 || failed(span)) this.#tells(span, exceptions);
    }
  }

  take(record: LoggedFailure): void {
    const span = this.#byId.get(record.spanId) ?? this.#outermostOf(record.process);
    const told = loggedException(record);
    if (this.#isTold(span, told, namesException(record.attributes))) return;
    add(this.#added, span, {
      name: 'exception',
      offsetNs: (record.atUs - span.startUs) * 1000 + record.atNs - span.startNs,
      attributes: new Map([
        ...record.attributes,
        ['exception.type', told.type],
        ['exception.message', told.message]
      ])
    });
    this.#tells(span, [told]);
  }

  spans(): Span[] {
    return this.#spans.map((span) => {
      const added = this.#added.get(span);
      return added
        ? { ...span, events: [...span.events, ...added].sort((a, b) => a.offsetNs - b.offsetNs) }
        : span;
    });
  }

  #tells(span: Span, exceptions: RecordedException[]): void {
    const before = this.#own.get(span);
    this.#own.set(span, [...(before ?? []), ...exceptions]);
    if (!before) for (const outer of this.#upwards(span)) add(this.#within, outer, span);
  }

  #isTold(span: Span, told: RecordedException, named: boolean): boolean {
    const below = this.#within.get(span) ?? [];
    if (!named)
      return below.some((one) => {
        const own = this.#own.get(one)!;
        return own.length === 0 || !own.every((other) => isOtherRecord(other, told));
      });
    const isSame = ({ type, message }: RecordedException): boolean =>
      type === told.type && message === told.message;
    return [...below, ...this.#upwards(span)].some((one) => this.#own.get(one)?.some(isSame));
  }

  /** A span and those it ran in, within its service. */
  #upwards(span: Span): Span[] {
    const way: Span[] = [];
    const { service } = span.resource;
    for (
      let up: Span | undefined = span;
      up?.resource.service === service && way.length < MAX_CLIMB && !way.includes(up);
      up = this.#byId.get(up.parentId)
    )
      way.push(up);
    return way;
  }

  #outermostOf(process: string): Span {
    const own = this.#spans.filter(({ resource }) => resource.key === process);
    const among = own.length > 0 ? own : this.#spans;
    const ids = new Set(among.map(({ spanId }) => spanId));
    const outermost = among.filter(({ parentId }) => !ids.has(parentId));
    return (outermost.length > 0 ? outermost : among).reduce((a, b) =>
      b.startUs < a.startUs || (b.startUs === a.startUs && b.startNs < a.startNs) ? b : a
    );
  }
}

/** Of the records of a span that name no exception each says something else, unless they say the same in other values. */
const isOtherRecord = (one: RecordedException, told: RecordedException): boolean =>
  one.type === '' && messageTemplate(one.message) !== messageTemplate(told.message);

function add<K, V>(lists: Map<K, V[]>, key: K, value: V): void {
  const list = lists.get(key);
  if (list) list.push(value);
  else lists.set(key, [value]);
}
