import { CHAIN_MIN_LENGTH, HOLDER_MIN_SHARE } from '../heap/big-holders';
import { formatCount, formatShare } from '../text/format';
import { DUPLICATE_MIN_SHARE } from './duplicate-strings';
import { GROWTH_MIN_SHARE } from './grows-between-dumps';
import type { HeapRule } from './heap-finding';
import type { RuleText } from './rules';

/** Every rule about heap dumps, in the order they are listed. */
export const HEAP_RULES: readonly RuleText<HeapRule>[] = [
  {
    rule: 'one-holder',
    name: 'One holder',
    looksFor:
      'An object, a static field, a global or a thread that keeps a good part of the heap, whatever lies between: arrays, lists, maps. Class loaders, classes and synthetic roots are ways and no holders.',
    thresholds: [
      {
        name: 'share',
        value: `${formatShare(HOLDER_MIN_SHARE)} of the heap or more`,
        why: 'Less is not what fills the memory.'
      }
    ],
    why: 'What only grows fills the memory in the end; before that the collector has ever more to look through.',
    doThis: 'See what takes entries out again. Give it a limit or a time to live.'
  },
  {
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
    doThis: 'See what cuts it off. Give it a limit, or keep the links in an array.'
  },
  {
    rule: 'grows-between-dumps',
    name: 'It grows',
    looksFor:
      'What a later dump of a process holds more of than an earlier one, and where in the tree of holders it grew.',
    thresholds: [
      {
        name: 'growth',
        value: `${formatShare(GROWTH_MIN_SHARE)} of the earlier heap or more`,
        why: 'Heaps breathe. Common practice.'
      }
    ],
    why: 'Growth that does not come from more work ends with the memory.',
    doThis:
      'Follow the way from a root to one of the added objects: its last step in your own code is where they should be let go.'
  },
  {
    rule: 'duplicate-strings',
    name: 'The same texts again and again',
    looksFor: 'Equal texts that are in the heap more than once.',
    thresholds: [
      {
        name: 'waste',
        value: `${formatShare(DUPLICATE_MIN_SHARE)} of the heap or more`,
        why: 'Less is not worth a change.'
      }
    ],
    why: 'The copies cost memory, and time to make and to clear away.',
    doThis: 'Keep one copy of each where they are read in.'
  }
];
