import { bigHolders, HOLDER_MIN_SHARE } from '../heap/big-holders';
import type { HeapStore } from '../heap/heap-store';
import { keptGroups, shortClassName } from '../heap/holders';
import { formatBytes, formatCount, formatShare } from '../text/format';
import { defineRule } from './define-rule';
import type { FoundInHeap, HeapContext } from './heap-finding';
import { holderFinding } from './holder-finding';

/** An object, a static field, a global or a thread that keeps a good part of the heap, whatever lies between it and what it keeps. */
export const oneHolder = defineRule({
  rule: 'one-holder',
  name: 'One holder',
  looksFor:
    'An object, static field, global or thread that retains a large share of the heap through any arrays, lists and maps. Class loaders, classes and synthetic roots lie on the path but are not holders.',
  thresholds: [
    {
      name: 'share',
      value: `${formatShare(HOLDER_MIN_SHARE)} of the heap or more`,
      why: 'Smaller ones do not fill the memory.'
    }
  ],
  why: 'What only grows fills the memory in the end; until then the collector has more and more to scan.',
  doThis: ['Find out what removes entries. Set a size limit or a time to live.'],
  find
});

function find({ store }: HeapContext): FoundInHeap[] {
  return bigHolders(store)
    .filter(({ chain }) => chain === null)
    .map((holder) => {
      const last = holder.path[holder.path.length - 1];
      const [most] = keptGroups(store, last);
      const content = most && most.count > 1 ? `: ${contentWords(store, most)}` : '';
      return holderFinding(store, holder, {
        title: `${holder.name} holds ${formatShare(holder.share)}`,
        sentence: `${holder.name} keeps ${formatShare(holder.share)} of the heap, ${formatBytes(holder.retainedBytes)}${content}.`,
        remedy:
          'Find out what removes entries. Set a size limit or a time to live, or keep less in each entry.',
        figures: {
          entries: most?.count ?? 0,
          bytesEach: most ? Math.round(most.retainedBytes / most.count) : 0
        }
      });
    });
}

function contentWords(
  store: HeapStore,
  most: { className: string; count: number; retainedBytes: number; sample: number }
): string {
  const [inside] = keptGroups(store, most.sample);
  const mainly = inside && inside.retainedBytes > 0.5 * store.at('retained', most.sample);
  const each = mainly ? `, each with its ${shortClassName(inside.className)}` : '';
  return `${formatCount(most.count)} × ${shortClassName(most.className)}${each}, ${formatBytes(Math.round(most.retainedBytes / most.count))} each on average`;
}
