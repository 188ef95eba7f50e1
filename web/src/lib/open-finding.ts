import type { FoundGroup } from '$lib/server/queries/found-group';

/** Findings of a scope that are listed at most. */
export const MOST_FINDINGS = 150;

/** Neither set aside (unless it came back) nor gone since a release. */
export const isOpen = ({ mark, gone }: Pick<FoundGroup, 'mark' | 'gone'>): boolean =>
  gone === null && (mark === null || mark.back);
