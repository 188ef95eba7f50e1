import { formatCount, formatShare } from '../text/format';
import { RECURSION_MIN_DEPTH, RECURSION_MIN_SHARE } from './deep-recursion';
import { HOT_MIN_SHARE } from './hot-function';
import { PAUSE_MIN_SHARE } from './pause-pressure';
import { MIN_SAMPLES, type ProfileRule } from './profile-finding';
import type { RuleText } from './rules';
import { THROWN_MIN_SHARE } from './thrown-for-control';

const ENOUGH = {
  name: 'samples',
  value: `${formatCount(MIN_SAMPLES)} or more in the selection`,
  why: 'With fewer, a share is not known well enough to conclude from (at 100 samples a fifth is known to about 8 points either way).'
};

/** Every rule about profiles, in the order they are listed. */
export const PROFILE_RULES: readonly RuleText<ProfileRule>[] = [
  {
    rule: 'hot-function',
    name: 'A function that burns',
    looksFor:
      'A function whose own code, without what it calls, takes a large part of the CPU; and the application’s functions it is called from.',
    thresholds: [
      {
        name: 'own share',
        value: `${formatShare(HOT_MIN_SHARE)} or more`,
        why: 'Below it, even removing the function altogether is seldom noticed.'
      },
      ENOUGH
    ],
    why: 'What a process computes, nobody else can compute in that time: one hot function makes every request wait.',
    doThis:
      'Look at its lines. Do less in it, do it less often, or keep its result; if it is not your code, begin with its callers.'
  },
  {
    rule: 'deep-recursion',
    name: 'Deep recursion',
    looksFor:
      'A function that stands in itself many times over and takes a good part of the CPU with everything below it.',
    thresholds: [
      {
        name: 'depth',
        value: `${RECURSION_MIN_DEPTH} or more`,
        why: 'Walking a tree of data goes a dozen levels deep; deeper, it is rather a list walked by recursion. Common practice.'
      },
      {
        name: 'share',
        value: `${formatShare(RECURSION_MIN_SHARE)} or more`,
        why: 'Less is not worth changing.'
      },
      ENOUGH
    ],
    why: 'The same work is often done again in every branch, and its cost grows with the depth, or with its power.',
    doThis: 'Keep the results of equal calls, or use a loop.'
  },
  {
    rule: 'thrown-for-control',
    name: 'Exceptions as control flow',
    looksFor:
      'CPU spent in making exceptions: constructors whose class is named an error or an exception, the functions that capture stacks, and lines whose source throws.',
    thresholds: [
      {
        name: 'share',
        value: `${formatShare(THROWN_MIN_SHARE)} or more`,
        why: 'Exceptions are for what is exceptional: making them should cost next to nothing.'
      },
      ENOUGH
    ],
    why: 'Each exception captures its stack, which costs many times what the test would that avoids it. Caught at once, it leaves no trace in any log.',
    doThis: 'Give an ordinary failure back as a value, or test before trying.'
  },
  {
    rule: 'pause-pressure',
    name: 'Much garbage',
    looksFor: 'CPU spent in collecting garbage; and which functions ran just before the collector did.',
    thresholds: [
      {
        name: 'share',
        value: `${formatShare(PAUSE_MIN_SHARE)} or more`,
        why: 'A collector that takes more is fed too much. Common practice.'
      },
      ENOUGH
    ],
    why: 'While it collects, the program stands still, and so does every request in the process.',
    doThis: 'Record allocations of the same process: they name the functions that make the objects.'
  }
];
