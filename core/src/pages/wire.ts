/**
 * How a page load is sent: an OTLP trace, by `/collect.js` or by whoever writes the same. Its root span holds what is of the load, its children are the
 * resources and the long tasks. Names of OpenTelemetry's semantic conventions where there are any (`url.full`, `session.id`, `http.*`, `code.*`); the others are here.
 */
export const ROOT_SPAN = 'page load';
export const TASK_SPAN = 'long task';

/** Attributes of the root span. */
export const LOAD = {
  url: 'url.full',
  session: 'session.id',
  navigation: 'tromix.page.navigation',
  device: 'tromix.page.device',
  connection: 'network.connection.subtype',
  country: 'tromix.page.country',
  loadedMs: 'tromix.page.loaded_ms',
  /** A load is told in parts, as it goes on: the part's number, from 1 on. Each has the root span, with what is known by then. */
  part: 'tromix.page.part',
  /** When the part was sent, milliseconds from the start of the navigation: so the receiver's clock tells when the load began. */
  sentMs: 'tromix.page.sent_ms',
  /** How many resources and tasks are not told, in all parts up to this one. */
  leftOut: 'tromix.page.left_out'
} as const;

/** An event of the root span a step. */
export const STEP_EVENT = 'tromix.step';
export const STEP = { kind: 'tromix.step.kind', label: 'tromix.step.label' } as const;

/** An event of the root span an error, as OpenTelemetry's conventions have it. */
export const ERROR_EVENT = 'exception';
export const ERROR = {
  type: 'exception.type',
  message: 'exception.message',
  stack: 'exception.stacktrace'
} as const;

/** An event of the root span a vital: its name, its value (milliseconds, or a score), the element it happened at, and of the largest paint what was painted. */
export const VITAL_EVENT = 'browser.web_vital';
export const VITAL = {
  name: 'web_vital.name',
  value: 'web_vital.value',
  element: 'web_vital.element',
  url: 'web_vital.url'
} as const;

/** Attributes of a resource's span. */
export const RESOURCE = {
  method: 'http.request.method',
  url: 'url.full',
  status: 'http.response.status_code',
  transferBytes: 'http.response.size',
  initiator: 'tromix.resource.initiator',
  /** `blocking` or `non-blocking`, as W3C Resource Timing has it. */
  blocks: 'tromix.resource.render_blocking',
  /** The `traceparent` of the server's span that answered. */
  answeredBy: 'tromix.resource.traceparent',
  unusedShare: 'tromix.resource.unused_share'
} as const;

/** Attributes of a long task's span. */
export const TASK = { script: 'code.file.path', function: 'code.function.name' } as const;

/** Moments of a resource: events of its span, as W3C Resource Timing names them. */
export const MOMENTS = {
  domainLookupStart: 'lookupStartMs',
  domainLookupEnd: 'lookupEndMs',
  connectStart: 'connectStartMs',
  secureConnectionStart: 'secureStartMs',
  connectEnd: 'connectEndMs',
  requestStart: 'requestStartMs',
  responseStart: 'responseStartMs'
} as const;
