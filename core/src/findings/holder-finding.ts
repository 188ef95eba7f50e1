import type { BigHolder } from '../heap/big-holders';
import type { HeapStore } from '../heap/heap-store';
import { nameOfObject } from '../heap/holders';
import { severityOf } from './finding';
import type { FoundInHeap } from './heap-finding';

/** A finding about a holder. */
export function holderFinding(
  store: HeapStore,
  holder: BigHolder,
  words: Pick<FoundInHeap, 'title' | 'sentence' | 'remedy' | 'figures'>
): FoundInHeap {
  const { retainedBytes, share, object, path } = holder;
  return {
    ...words,
    severity: severityOf(retainedBytes, store.meta.liveBytes),
    figures: { ...words.figures, retainedBytes, share },
    evidence: {
      shows: 'object',
      className: holder.className,
      object,
      path: path.map((one) => nameOfObject(store, one))
    },
    cost: retainedBytes
  };
}
