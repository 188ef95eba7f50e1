import type { ComparedLoads, WayPart } from '@tromix/core/pages/compare-loads';
import type { PageLoad } from '@tromix/core/pages/page-load';
import type { Sides } from '@tromix/core/sides';
import { formatBytes, formatDuration } from '@tromix/core/text/format';
import { words, type Words } from '@tromix/core/text/words';

export const WAY_NAMES: Record<WayPart, string> = {
  document: 'the document',
  style: 'style sheets',
  script: 'script',
  task: 'long tasks',
  data: 'data',
  picture: 'the picture',
  font: 'fonts',
  other: 'other files',
  nothing: 'what the browser does not tell'
};
const ms = (value: number): string => formatDuration(value * 1e6);
/** A smaller change nobody sees. */
const SEEN_MS = 20;

/** What changed between two loads, in a few sentences. */
export function comparedReading(
  { way, files, tasks }: ComparedLoads,
  { before, after }: Sides<PageLoad>
): Words[] {
  const sentences: Words[] = [];
  if (before.largest && after.largest) {
    const change = after.largest.atMs - before.largest.atMs;
    const isSeen = Math.abs(change) >= SEEN_MS;
    sentences.push(
      !isSeen
        ? words`The largest paint came at ${[ms(before.largest.atMs)]} and at ${[ms(after.largest.atMs)]}: nobody sees the difference.`
        : words`The largest paint came ${[`${ms(Math.abs(change))} ${change < 0 ? 'sooner' : 'later'}`]}: at ${ms(after.largest.atMs)} instead of ${ms(before.largest.atMs)}.`
    );
    const [most] = way;
    const part = most ? most.ms.after - most.ms.before : 0;
    if (isSeen && most && Math.abs(part) >= SEEN_MS)
      sentences.push(
        words`Most of it is ${[WAY_NAMES[most.part]]}: ${ms(Math.abs(part))} ${part < 0 ? 'less' : 'more'} on the way.`
      );
  }
  const bytes = files.reduce(
    (sum, { files: { before: a, after: b } }) => sum + (b?.bytes ?? 0) - (a?.bytes ?? 0),
    0
  );
  if (bytes !== 0)
    sentences.push(
      words`${[formatBytes(Math.abs(bytes))]} ${bytes < 0 ? 'less' : 'more'} came over the network, of files that tell their size.`
    );
  const held = tasks.after.ms - tasks.before.ms;
  if (Math.abs(held) >= SEEN_MS)
    sentences.push(
      words`Long tasks held the page for ${[`${ms(Math.abs(held))} ${held < 0 ? 'less' : 'more'}`]}.`
    );
  return sentences;
}
