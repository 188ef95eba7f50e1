import type { Resource } from '@tromix/core/trace/span';

export interface CoveringProfile {
  id: string;
  service: string;
  host: string;
  pid: number;
  startedAtUs: number;
  durationNs: number;
}

/** A thread dump taken while the request ran. */
export type CoveringDump = CoveringProfile;

/** How many of the requests of its endpoint have a finding that this one has. */
export interface SameFinding {
  rule: string;
  subject: string;
  requests: number;
  ofRequests: number;
}

/** A load of a page that asked for a request. */
export interface AskedBy {
  traceId: string;
  page: string;
  site: string;
  startUs: number;
  /** When the largest paint came, milliseconds; null where it was not measured. */
  lcp: number | null;
}

export interface RequestPage {
  traceId: string;
  spanId: string;
  /** The spans of the trace, `StoredSpans` as JSON in UTF-8: bytes travel several times faster than lists or text. */
  spans: Uint8Array;
  resources: [number, Omit<Resource, 'attributes'>][];
  profiles: CoveringProfile[];
  dumps: CoveringDump[];
  same: SameFinding[];
  slower: string | null;
  faster: string | null;
  /** A normal request of the same endpoint, as the end of its address; null where no other is kept. */
  normal: string | null;
  logs: StoredLog[];
  /** Loads of pages that asked for it. */
  askedBy: AskedBy[];
  /** True where folders with source texts are configured. */
  hasSources: boolean;
}

/** A log record of the trace: span, epoch microseconds and nanoseconds beyond, OTLP severity number, text, and the service that wrote it. */
export type StoredLog = [
  spanId: string,
  atUs: number,
  atNs: number,
  severity: number,
  body: string,
  service: string
];
