import { select } from '../db/reader';
import type { FoundGroup } from './found-group';

/** A finding somebody set aside. */
export interface Mark {
  service: string;
  endpoint: string;
  rule: string;
  subject: string;
  reason: string;
  atUs: number;
  costNs: number;
  /** Epoch microseconds of the newest release of the service. */
  newestReleaseUs: number | null;
}

/** A finding that costs so many times as much a request as when it was set aside has come back. */
export const BACK_RATIO = 2;

export function marksOf(): Promise<Mark[]> {
  return select<Mark>(
    `SELECT k.service, k.endpoint, k.rule, k.subject, k.reason, k.at_us AS atUs, k.cost_ns AS costNs,
      (SELECT max(l.first_us) FROM releases l JOIN services s ON s.id = l.service_id WHERE s.name = k.service) AS newestReleaseUs
      FROM finding_marks k`
  );
}

/** A finding set aside comes back with a newer release of its service that still shows it, or when it costs twice as much. */
export function markOf(
  marks: readonly Mark[],
  one: Pick<FoundGroup, 'service' | 'endpoint' | 'rule' | 'subject' | 'costNs' | 'requests'>
): FoundGroup['mark'] {
  const mark = marks.find(
    ({ service, endpoint, rule, subject }) =>
      service === one.service && endpoint === one.endpoint && rule === one.rule && subject === one.subject
  );
  if (!mark) return null;
  const newer = mark.newestReleaseUs !== null && mark.newestReleaseUs > mark.atUs;
  const dearer = one.costNs / Math.max(1, one.requests) > mark.costNs * BACK_RATIO;
  return { reason: mark.reason, atUs: mark.atUs, back: newer || dearer };
}
