import { crashSentence } from '@tromix/core/crashes/reading';
import { formatDuration, plural } from '@tromix/core/text/format';
import { words, type Words } from '@tromix/core/text/words';
import type { Beside, CrashDetail } from '$lib/server/queries/crash';

const sum = (counts: readonly number[]): number => counts.reduce((total, count) => total + count, 0);

/** Whether it was the program or the place: what else was recorded on its host, and of its service elsewhere. */
export function programOrPlace({ from, here, elsewhere, others }: Beside, atUs: number, host: string): Words {
  const minute = Math.floor(atUs / 60e6) - from;
  const [before, after] = [others.slice(0, minute), others.slice(minute + 1)];
  const where = host || 'its host';
  if (sum(others) === 0)
    return sum(elsewhere) > 0
      ? words`The service went on elsewhere; of ${[where]} nothing else was recorded, so whether the whole host suffered is not told.`
      : words`Nothing else of ${[where]} was recorded around it: whether it was the program or the place is not told.`;
  if (sum(before) > 0 && sum(after) > 0)
    return words`Other services on ${[where]} went on serving: it was the program, not the place.`;
  if (sum(before) > 0)
    return words`Other services on ${[where]} fell silent as well: look at the host before you look at the program.`;
  return sum(here) > 0
    ? words`Other services on ${[where]} served only after it: what the host did before is not told.`
    : words`Before it nothing of ${[where]} was recorded.`;
}

/** In how many minutes of some something was served. */
export const servedMinutes = (counts: readonly number[]): number =>
  counts.filter((count) => count > 0).length;

export function crashReading(detail: CrashDetail, atUs: number): Words[] {
  const { crash, cutOff, failedCalls, beside, servedAgainUs, item, isKnown, dumps } = detail;
  const heaps = dumps.filter(({ kind }) => kind === 'heap');
  return [
    crash
      ? [crashSentence(crash)]
      : ['Its file is not stored any more: only what the list says of it is left.'],
    cutOff.length > 0
      ? words`${[plural(cutOff.length, 'request')]} ${cutOff.length === 1 ? 'was' : 'were'} cut off: ${cutOff.length === 1 ? 'it was' : 'they were'} under way and never answered.`
      : [],
    failedCalls.length > 0 ? words`${[plural(failedCalls.length, 'call')]} of others got no answer.` : [],
    servedAgainUs !== null
      ? words`Another process of ${[item.service]} serves on ${[item.host]} ${[formatDuration((servedAgainUs - atUs) * 1000)]} later.`
      : item.service
        ? ['No other process of it served on this host within the hour after, as far as was recorded.']
        : [],
    item.service ? programOrPlace(beside, atUs, item.host) : [],
    crash?.cause === 'memory'
      ? heaps.length > 0
        ? words`${[plural(heaps.length, 'heap dump')]} of that time ${heaps.length === 1 ? 'shows' : 'show'} what filled the heap.`
        : ['No heap dump of that time is here: what filled the heap is not told.']
      : [],
    item.service && !isKnown
      ? [
          item.pid > 0
            ? `No request of process ${item.pid} came under this service’s name: that it is ${item.service} is what its sender says.`
            : `It does not tell its process: that it is ${item.service} is what its sender says.`
        ]
      : []
  ].filter((sentence) => sentence.length > 0);
}
