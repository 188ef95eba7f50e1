import { formatShare } from '../text/format';
import type { Difference, FunctionChange } from './difference';

/** What two profiles are held against each other by. */
export type Scaling = 'share' | 'time' | 'requests';

/** A change of less than this part of the greater whole is not spoken of. */
const WORTH_SAYING = 0.02;

/**
 * What changed most, in a sentence or two; parts between stars are bold.
 * @param words a weight of the comparison in words. @param name a function in words.
 */
export function differenceReading(
  d: Pick<Difference, 'beforeSum' | 'afterSum'>,
  changes: readonly FunctionChange[],
  scaling: Scaling,
  words: (weight: number) => string,
  name: (frame: number) => string
): string[] {
  const whole = Math.max(d.beforeSum, d.afterSum);
  if (whole <= 0) return ['Neither of the two has any weight to compare.'];
  const sentences: string[] = [];
  if (scaling !== 'share') {
    const change = d.afterSum - d.beforeSum;
    const per = scaling === 'time' ? 'for each second recorded' : 'for each request';
    sentences.push(
      Math.abs(change) < WORTH_SAYING * whole
        ? `Altogether it takes as much as before: *${words(d.afterSum)}* ${per}.`
        : `Altogether it takes *${words(d.afterSum)}* ${per} instead of ${words(d.beforeSum)}: ${change > 0 ? '▲ +' : '▼ −'}${formatShare(Math.abs(change) / (d.beforeSum || whole))}.`
    );
  }
  const [most] = changes;
  if (!most || Math.abs(most.selfChange) < WORTH_SAYING * whole) {
    sentences.push('No function’s own part changed by more than 2 % of the whole.');
    return sentences;
  }
  sentences.push(`Most changed *${name(most.frame)}*: ${changeWords(most, words)}.`);
  const next = changes[1];
  if (next && Math.abs(next.selfChange) >= WORTH_SAYING * whole)
    sentences.push(`After it *${name(next.frame)}*: ${changeWords(next, words)}.`);
  return sentences;
}

function changeWords({ kind, before, after }: FunctionChange, words: (weight: number) => string): string {
  if (kind === 'new') return `it is new, with ${words(after.self)} of its own`;
  if (kind === 'vanished') return `it is gone; it took ${words(before.self)} itself`;
  return `from ${words(before.self)} to ${words(after.self)} of its own`;
}
