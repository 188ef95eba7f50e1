import { shortVarint } from '../../formats/wire';

/**
 * Weights of stacks as bytes: for each stack, by ascending number, how much its number exceeds the one before and its weight, both as
 * variable-length integers (Protocol Buffers, "Encoding"). Weights are whole microseconds: a sampler's clock tells no more.
 */
export function writeStackWeights(weights: ReadonlyMap<number, number>): Uint8Array {
  const stacks = [...weights.keys()].sort((a, b) => a - b);
  const bytes: number[] = [];
  let before = 0;
  for (const stack of stacks) {
    const weight = Math.round(weights.get(stack)!);
    if (weight <= 0) continue;
    putVarint(bytes, stack - before);
    putVarint(bytes, weight);
    before = stack;
  }
  return Uint8Array.from(bytes);
}

function putVarint(bytes: number[], value: number): void {
  let left = value;
  for (; left >= 0x80; left = Math.floor(left / 0x80)) bytes.push((left % 0x80) | 0x80);
  bytes.push(left);
}

/** Reads them back. @throws RangeError where the bytes end within a number */
export function readStackWeights(bytes: Uint8Array, visit: (stack: number, weightUs: number) => void): void {
  let stack = 0;
  for (let at = 0; at < bytes.length;) {
    const step = shortVarint(bytes, at);
    const weight = step.next < 0 ? step : shortVarint(bytes, step.next);
    if (weight.next < 0) throw new RangeError(`The weights of stacks end within a number, at byte ${at}.`);
    stack += step.value;
    visit(stack, weight.value);
    at = weight.next;
  }
}
