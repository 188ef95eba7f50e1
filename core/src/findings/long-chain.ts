import { bigHolders, CHAIN_MIN_LENGTH, HOLDER_MIN_SHARE } from '../heap/big-holders';
import { shortClassName } from '../heap/holders';
import { formatBytes, formatCount, formatShare } from '../text/format';
import { defineRule } from './define-rule';
import type { FoundInHeap, HeapContext } from './heap-finding';
import { holderFinding } from './holder-finding';

/** A linked structure that keeps a good part of the heap. */
export const longChain = defineRule({
  rule: 'long-chain',
  name: 'Long chain of objects',
  looksFor: 'Objects of one class, each holding the next, that together retain a large share of the heap.',
  thresholds: [
    {
      name: 'links',
      value: `${formatCount(CHAIN_MIN_LENGTH)} or more`,
      why: 'Fewer may be nested by hand. Common practice.'
    },
    {
      name: 'share',
      value: `${formatShare(HOLDER_MIN_SHARE)} of the heap or more`,
      why: 'Smaller ones do not fill the memory.'
    }
  ],
  why: 'The first link retains all the others, and the collector follows them one by one.',
  doThis: ['Find what should cut it off. Limit its length, or keep the elements in an array.'],
  find
});

function find({ store }: HeapContext): FoundInHeap[] {
  return bigHolders(store).flatMap((holder) => {
    const { chain } = holder;
    if (chain === null) return [];
    const each = Math.round(holder.retainedBytes / chain.count);
    return holderFinding(store, holder, {
      title: 'Long chain of objects',
      sentence: `A chain of ${formatCount(chain.count)} × ${shortClassName(chain.className).replace(/^.*\$(?=\D)/, '')} from ${holder.name}, through ${chain.via}, keeps ${formatShare(holder.share)} of the heap, ${formatBytes(holder.retainedBytes)}: ${formatBytes(each)} a link.`,
      remedy:
        'Find what should cut it off: a linked structure retains everything behind its first link. Limit its length, or keep the elements in an array.',
      figures: { links: chain.count, bytesEach: each }
    });
  });
}
