import type { LongTask } from '@tromix/core/pages/page-load';
import type { LoadProfile } from '$lib/server/queries/pages/one-load';
import type { ProfileStretch } from '$lib/ui/profile/stretch-samples';

/** A task as a stretch of the page's profile; null where that does not cover any of it. */
export function taskStretch(
  profile: LoadProfile | null,
  { startMs, endMs }: LongTask
): ProfileStretch | null {
  if (!profile) return null;
  const from = Math.max(0, startMs - profile.startMs);
  const to = Math.min(profile.durationMs, endMs - profile.startMs);
  return to > from ? { profile: { id: profile.id }, fromNs: from * 1e6, toNs: to * 1e6 } : null;
}
