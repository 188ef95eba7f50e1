import { viewLink } from '$lib/ui/shell/links';
import type { ProfileStretch } from './stretch-samples';

/** A link to a profile cut to exactly a stretch. */
export function profileLink({ profile, fromNs, toNs }: ProfileStretch): string {
  return viewLink(
    `/profiles/${profile.id}`,
    {},
    { cutFrom: String(Math.round(fromNs)), cutTo: String(Math.round(toNs)) }
  );
}
