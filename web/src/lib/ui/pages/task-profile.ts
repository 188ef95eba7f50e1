import type { LongTask } from '@tromix/core/pages/page-load';
import type { LoadProfile } from '$lib/server/queries/pages/one-load';
import { viewLink } from '$lib/ui/shell/links';

/** A link to the page's profile cut to exactly a task; null where it does not cover any of it. */
export function taskProfileLink(profile: LoadProfile | null, { startMs, endMs }: LongTask): string | null {
  if (!profile) return null;
  const from = Math.max(0, startMs - profile.startMs);
  const to = Math.min(profile.durationMs, endMs - profile.startMs);
  if (to <= from) return null;
  const nanoseconds = (ms: number): string => String(Math.round(ms * 1e6));
  return viewLink(`/profiles/${profile.id}`, {}, { cutFrom: nanoseconds(from), cutTo: nanoseconds(to) });
}
