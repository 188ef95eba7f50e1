import type { EvidenceKind } from '@tromix/core/evidence/kinds';

/** What of a process is recorded. */
export type RecordedKind = 'cpu' | 'allocation' | 'heap' | 'threads';

/** The evidence that a recording becomes. */
export const evidenceKindOf = (kind: RecordedKind): EvidenceKind =>
  kind === 'heap' || kind === 'threads' ? kind : 'profile';

/** Taken at one moment: it has no length, and no interval. */
export const isDump = (kind: RecordedKind): boolean => evidenceKindOf(kind) !== 'profile';
