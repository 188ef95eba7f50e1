import type { EvidenceKind } from '@tromix/core/evidence/kinds';
import type { EvidenceItem } from '$lib/server/queries/evidence';
import { dateTime } from '$lib/ui/kit/time';

/** A piece of evidence by whose it is and of when, to tell it from others of its kind. */
export const evidenceName = (
  {
    service,
    name,
    release,
    host,
    startedAtUs
  }: Pick<EvidenceItem<EvidenceKind>, 'service' | 'name' | 'release' | 'host' | 'startedAtUs'>,
  more = ''
): string =>
  [
    `${service || name || 'unnamed'}${release ? ` ${release}` : ''}${host ? ` on ${host}` : ''}`,
    more,
    startedAtUs === null ? '' : dateTime(startedAtUs / 1000)
  ]
    .filter(Boolean)
    .join(', ');
