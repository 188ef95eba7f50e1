import { bigHolders, CHAIN_MIN_LENGTH, HOLDER_MIN_SHARE } from '../heap/big-holders';
import { shortClassName } from '../heap/holders';
import { formatBytes, formatCount, formatShare } from '../text/format';
import { defineRule } from './define-rule';
import type { FoundInHeap, HeapContext } from './heap-finding';
import { holderFinding } from './holder-finding';

/** A linked structure that keeps a good part of the heap. */
export const longChain = defineRule({
  rule: 'long-chain',
  name: 'A long chain',
  looksFor: 'Like objects each of which holds the next, that together keep a good part of the heap.',
  thresholds: [
    {
      name: 'links',
      value: `${formatCount(CHAIN_MIN_LENGTH)} or more`,
      why: 'Fewer are a nesting somebody wrote by hand. Common practice.'
    },
    {
      name: 'share',
      value: `${formatShare(HOLDER_MIN_SHARE)} of the heap or more`,
      why: 'Less is not what fills the memory.'
    }
  ],
  why: 'The first link keeps all of them, and the collector follows them one by one.',
  doThis: ['See what cuts it off. Give it a limit, or keep the links in an array.'],
  find
});

function find({ store }: HeapContext): FoundInHeap[] {
  return bigHolders(store).flatMap((holder) => {
    const { chain } = holder;
    if (chain === null) return [];
    const each = Math.round(holder.retainedBytes / chain.count);
    return holderFinding(store, holder, {
      title: 'A long chain',
      sentence: `A chain of ${formatCount(chain.count)} × ${shortClassName(chain.className).replace(/^.*\$(?=\D)/, '')} from ${holder.name}, through ${chain.via}, keeps ${formatShare(holder.share)} of the heap, ${formatBytes(holder.retainedBytes)}: ${formatBytes(each)} a link.`,
      remedy:
        'See what cuts it off again: a linked structure keeps everything behind its first link. Give it a limit, or keep the links in an array.',
      figures: { links: chain.count, bytesEach: each }
    });
  });
}
