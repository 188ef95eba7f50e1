import { defineRule } from './define-rule';
import { textOfObject } from '../heap/object-facts';
import { formatBytes, formatCount, formatShare } from '../text/format';
import { severityOf } from './finding';
import type { HeapContext, FoundInHeap } from './heap-finding';

/** Less is not worth a change. */
export const DUPLICATE_MIN_SHARE = 0.02;
const SHOWN = 3;
const MAX_SHOWN_TEXT = 24;

/** Equal strings many times in the heap. */
export const duplicateStrings = defineRule({
  rule: 'duplicate-strings',
  name: 'Duplicate strings',
  looksFor: 'Equal strings that the heap stores more than once.',
  thresholds: [
    {
      name: 'waste',
      value: `${formatShare(DUPLICATE_MIN_SHARE)} of the heap or more`,
      why: 'Less is not worth a change.'
    }
  ],
  why: 'The copies cost memory, and time to create and collect.',
  doThis: ['Keep one copy of each where they are read.'],
  find
});

function find({ store }: HeapContext): FoundInHeap[] {
  const { duplicates, duplicateBytes, duplicateGroups, liveBytes } = store.meta;
  if (duplicateBytes < DUPLICATE_MIN_SHARE * liveBytes || duplicates.length === 0) return [];
  const shown = duplicates.slice(0, SHOWN).map(({ sample, count }) => {
    const text = (textOfObject(store, sample, MAX_SHOWN_TEXT) ?? '')
      .replaceAll(/\s+/g, ' ')
      .slice(0, MAX_SHOWN_TEXT);
    return `“${text}” ${formatCount(count)}×`;
  });
  return [
    {
      title: 'Duplicate strings',
      severity: severityOf(duplicateBytes, liveBytes),
      sentence: `${formatCount(duplicateGroups)} strings are stored more than once and waste ${formatBytes(duplicateBytes)}, ${formatShare(duplicateBytes / liveBytes)} of it: ${shown.join(', ')}.`,
      remedy:
        'Keep one copy of each where they are read (a table of known strings), or let the JVM deduplicate them.',
      figures: { groups: duplicateGroups, wastedBytes: duplicateBytes, share: duplicateBytes / liveBytes },
      evidence: { shows: 'duplicate strings', className: null, object: duplicates[0].sample, path: [] },
      cost: duplicateBytes
    }
  ];
}
