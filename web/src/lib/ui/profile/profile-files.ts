import type { EvidenceItem } from '$lib/server/queries/evidence';
import { shortTime } from '$lib/ui/kit/time';
import type { Action } from '$lib/ui/kit/actions';
import type { ProfilePart } from '$lib/workers/profile.worker';

type File = EvidenceItem<'profile'>;

/** Files offered to be opened together with the first. */
const MOST_OFFERED = 30;

/** Files as the parts of one profile. @param startedAtUs when the first of them began; null where that is not known */
export function partsOf(files: readonly File[], startedAtUs: number | null): ProfilePart[] {
  return files.map((file) => ({
    url: `/api/evidence/${file.id}/content`,
    name: [file.service || file.name, file.pid || ''].join(' ').trim() || file.id.slice(0, 8),
    offsetNs: startedAtUs === null || file.startedAtUs === null ? 0 : (file.startedAtUs - startedAtUs) * 1000
  }));
}

/** The address of a profile with other files opened together with it. */
export function togetherHref(url: URL, ids: readonly string[]): string {
  const query = new URLSearchParams(url.searchParams);
  for (const name of ['with', 'thread', 'cutFrom', 'cutTo']) query.delete(name);
  for (const id of ids) query.append('with', id);
  return `${url.pathname}?${query}`;
}

/** Other files that can be opened together with those that are. */
export function openTogether(
  url: URL,
  added: readonly string[],
  others: readonly File[],
  nowMs: number
): Action[] {
  return others.slice(0, MOST_OFFERED).map(({ id, name, service, startedAtUs }) => ({
    name: `${service || name}${startedAtUs === null ? '' : `, ${shortTime(startedAtUs / 1000, nowMs)}`}`,
    href: togetherHref(url, [...added, id])
  }));
}
