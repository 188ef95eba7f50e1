import type { EvidenceKind } from '@tromix/core/evidence/kinds';
import { dropIndexes, indexState } from '../heap/indexes';
import { listLoadRun } from '../load/list-run';

/** What else is done when evidence of a kind has been kept or removed. Most kinds need nothing. */
export const LIFECYCLE: {
  [K in EvidenceKind]?: {
    kept: (id: string) => void | Promise<void>;
    removed: (id: string) => void | Promise<void>;
  };
} = {
  heap: { kept: (id) => void indexState(id, false, true), removed: dropIndexes },
  // Its row goes with the evidence's.
  load: { kept: listLoadRun, removed: () => undefined }
};
