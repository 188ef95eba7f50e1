import type { EvidenceKind } from '@tromix/core/evidence/kinds';
import { dropIndexes, indexState } from '../heap/indexes';

/** What else is done when evidence of a kind has been kept or removed. Most kinds need nothing. */
export const LIFECYCLE: {
  [K in EvidenceKind]?: { kept: (id: string) => void; removed: (id: string) => Promise<void> };
} = {
  heap: { kept: (id) => void indexState(id, false, true), removed: dropIndexes }
};
