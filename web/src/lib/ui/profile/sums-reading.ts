import { formatDuration, formatShare, plural } from '@tromix/core/text/format';
import { words, type Words } from '@tromix/core/text/words';
import { inTenths } from './in-tenths';
import type { OpenedSums } from '$lib/workers/profile.worker';

/** How the reading of the recordings of a scope begins: what they cover, and what they add up to. @param endpoint its name; '' for all */
export function sumsReading({ sums, valueType }: OpenedSums, endpoint: string): Words[] {
  const { coveredUs, processes, busyUs, idleUs, requests, sharedUs, fromUs, toUs } = sums;
  const time = (us: number): string => formatDuration(us * 1000);
  const ofAll = (toUs - fromUs) * Math.max(1, processes);
  const covered = words`Recordings of ${[plural(processes, 'process', 'processes')]} cover ${time(coveredUs)} of the ${time(toUs - fromUs)} here${processes > 1 ? ' of each' : ''}, ${formatShare(coveredUs / ofAll)} of it. The rest is not known.`;
  const does = valueType === 'cpu' ? 'computed' : 'ran';
  if (sums.part < 1)
    return [words`${[formatShare(sums.part)]} of the recordings are added up; the rest comes.`];
  if (endpoint === '')
    return [covered, words`In them the code ${does} for ${[time(busyUs)]} and was idle for ${time(idleUs)}.`];
  const each = requests > 0 ? busyUs / requests : 0;
  const shared =
    sharedUs > 0
      ? ` ${formatShare(sharedUs / busyUs)} of that was divided among requests that ran at the same time: the samples do not tell whose it was.`
      : '';
  return [
    covered,
    words`${[endpoint]} ${does} for ${[`${time(each)} a request`]}: ${time(busyUs)} in ${inTenths(requests)} requests whose own time was recorded.${shared}`
  ];
}
