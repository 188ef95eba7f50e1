import type { Severity } from '@tromix/core/findings/finding';
import type { Gone } from '@tromix/core/findings/gone';

/** Alike findings of many requests as one. */
export interface FoundGroup {
  rule: string;
  title: string;
  severity: Severity;
  service: string;
  endpoint: string;
  subject: string;
  requests: number;
  costNs: number;
  /** Of all time in the scope. */
  share: number;
  /** The finding of a typical request, or what was found over all of them. */
  sentence: string;
  remedy: string;
  fingerprint: string;
  origin: string;
  /** Calls in that typical request. */
  typicalCalls: number | null;
  /** How the calls grow with the data; '' where it is not known. */
  growth: string;
  /** The typical request. */
  example: { traceId: string; spanId: string } | null;
  /** Host or release to narrow the scope to. */
  narrow: { host?: string; release?: string };
  /** The release that no longer shows it; null where it is still there, or that is not sure. */
  gone: Gone | null;
  /** Set aside by somebody, unless it came back. */
  mark: { reason: string; atUs: number; back: boolean } | null;
}

/** Alike findings of one endpoint, summed up. */
export interface Group {
  endpoint_id: number;
  subject_id: number;
  rule: string;
  subject: string;
  requests: number;
  cost: number;
  service: string;
  endpoint: string;
}
