import type { ProfileContext } from './profile-finding';

/** A node some of whose samples were at a line that makes an exception. */
export interface ThrowingNode {
  node: number;
  line: number;
  /** Of the node's own weight, the part at that line. */
  weight: number;
}

/**
 * `throw` at the head of a statement, or an error that is made to be handed on. The text before it may be anything but a comment or the middle of a word
 * (ECMA-262, ThrowStatement; names of classes of errors by convention, common practice).
 */
const THROWS = /(?:^|[^\w$.])throw\b(?!\s*[:=,)])|\bnew\s+\w*(?:Error|Exception)\b/;

export const makesException = (text: string): boolean => THROWS.test(text.replace(/\/\/.*$/, '').trim());

/**
 * V8 often shows no frame for making an exception: its samples are at the line that throws. Told by the line ticks and the source.
 * @param leftOut nodes that count already.
 */
export function throwingNodes(
  { profile, weights, sourceLine }: ProfileContext,
  leftOut: Uint8Array
): ThrowingNode[] {
  const { ticks, frames, nodeFrame } = profile;
  if (!ticks || !sourceLine) return [];
  const known = new Map<string, boolean>();
  const throws = (file: string, line: number): boolean => {
    const place = `${line} ${file}`;
    let answer = known.get(place);
    if (answer === undefined) known.set(place, (answer = makesException(sourceLine(file, line) ?? '')));
    return answer;
  };
  const found: ThrowingNode[] = [];
  for (let node = 1; node < nodeFrame.length; node++) {
    const { file } = frames[nodeFrame[node]];
    if (leftOut[node] || file === '' || weights.self[node] <= 0) continue;
    const [from, to] = [ticks.start[node], ticks.start[node + 1]];
    let sum = 0;
    for (let i = from; i < to; i++) sum += ticks.ticks[i];
    for (let i = from; i < to; i++)
      if (throws(file, ticks.line[i]))
        found.push({ node, line: ticks.line[i], weight: (weights.self[node] * ticks.ticks[i]) / sum });
  }
  return found;
}
