import { changeOf, greaterOf, type Sides } from '../sides';
import { formatShare } from '../text/format';
import { words, type Words } from '../text/words';
import { selfChange, type FunctionChange } from './difference';

/** What two profiles are held against each other by. */
export type Scaling = 'share' | 'time' | 'requests';

/** A change of less than this part of the greater whole is not mentioned. */
const WORTH_SAYING = 0.02;

/** How weights and functions of a comparison are written. */
interface Wording {
  weight: (weight: number) => string;
  name: (frame: number) => string;
}

/** What changed most, in a sentence or two. */
export function differenceReading(
  sums: Sides<number>,
  changes: readonly FunctionChange[],
  scaling: Scaling,
  { weight, name }: Wording
): Words[] {
  const whole = greaterOf(sums, (sum) => sum);
  if (whole <= 0) return [['Neither of the two has any weight to compare.']];
  const sentences: Words[] = [];
  if (scaling !== 'share') {
    const change = changeOf(sums, (sum) => sum);
    const per = scaling === 'time' ? 'per second recorded' : 'per request';
    sentences.push(
      Math.abs(change) < WORTH_SAYING * whole
        ? words`In total it takes as much as before: ${[weight(sums.after)]} ${per}.`
        : words`In total it takes ${[weight(sums.after)]} ${per} instead of ${weight(sums.before)}: ${change > 0 ? '▲ +' : '▼ −'}${formatShare(Math.abs(change) / (sums.before || whole))}.`
    );
  }
  const [most, next] = changes.filter((one) => Math.abs(selfChange(one)) >= WORTH_SAYING * whole);
  if (most) sentences.push(words`${[name(most.frame)]} changed most: ${changeWords(most, weight)}.`);
  else sentences.push(['No function’s self weight changed by more than 2 % of the whole.']);
  if (next) sentences.push(words`${[name(next.frame)]} is next: ${changeWords(next, weight)}.`);
  return sentences;
}

function changeWords({ kind, before, after }: FunctionChange, weight: Wording['weight']): string {
  if (kind === 'new') return `it is new, with ${weight(after.self)} self`;
  if (kind === 'vanished') return `it is gone; it had ${weight(before.self)} self`;
  return `from ${weight(before.self)} to ${weight(after.self)} self`;
}
