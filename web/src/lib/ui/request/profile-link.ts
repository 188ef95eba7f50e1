import { viewLink } from '$lib/ui/shell/links';
import type { CoveredStretch } from './request-model';

/** A link to a profile cut to exactly a stretch. */
export function profileLink({ profile, fromNs, toNs }: CoveredStretch): string {
  return viewLink(
    `/profiles/${profile.id}`,
    {},
    { cutFrom: String(Math.round(fromNs)), cutTo: String(Math.round(toNs)) }
  );
}
