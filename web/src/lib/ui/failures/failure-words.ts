import type { FailureIdentity } from '@tromix/core/failures/identity';
import { formatCount, formatShare, plural } from '@tromix/core/text/format';
import { words, type Words } from '@tromix/core/text/words';
import type { FailureDetail } from '$lib/server/queries/failure';
import type { FailureGroup, FailureList } from '$lib/server/queries/failures';

export { failureTitle as failureName, shortType } from '@tromix/core/failures/identity';
import { failureTitle as failureName } from '@tromix/core/failures/identity';

/** Where it comes from: the function and the end of its file's path, or the endpoint of a request that failed without an exception. */
export const failurePlace = ({ function: name, file, endpoint }: FailureIdentity): string =>
  [name || (file ? '(anonymous)' : ''), file].filter(Boolean).join(' · ') || endpoint;

/** What makes these one, in words. */
export function whyOne(identity: FailureIdentity): string[] {
  const { type, message, rootType, function: name, file, endpoint } = identity;
  return [
    type ? `the type ${type}` : '',
    message ? `the message “${message}”${message.includes('?') ? ', whatever stands for each ?' : ''}` : '',
    rootType ? `the cause it comes from, ${rootType}` : '',
    name || file
      ? `the innermost function of the program’s own code, ${[name || '(anonymous)', file].filter(Boolean).join(' in ')}`
      : '',
    endpoint ? `where it failed, ${endpoint}` : ''
  ].filter(Boolean);
}

/** What became of a group that was marked; '' for one that is open. */
export function stateWords({ state, mark }: Pick<FailureGroup, 'state' | 'mark'>): string {
  if (!mark) return '';
  const was = mark.kind === 'fixed' ? `marked as fixed in ${mark.release || 'the next release'}` : 'ignored';
  if (state.state !== 'back') return was;
  return `${was}, back ${mark.kind === 'ignored' && /times$/.test(state.since) ? `after ${state.since}` : `since ${state.since}`}`;
}

export function listReading({ groups, count, times }: FailureList): Words[] {
  if (count === 0) return [['Nothing failed in this scope, as far as it was recorded.']];
  const [first] = groups;
  const starting = groups.filter(({ starts }) => starts > 0);
  const caught = groups.reduce((sum, { times: all, seen }) => sum + all - seen, 0);
  return [
    words`${[plural(times, 'failure')]} of ${[plural(count, 'kind')]}. The most frequent is ${[failureName(first)]}, ${[plural(first.times, 'time')]}.`,
    starting.length < groups.length
      ? words`${[formatCount(starting.length)]} of those listed start somewhere; the others only pass them on: mend where they start.`
      : [],
    caught > 0
      ? words`${[formatShare(caught / Math.max(1, times))]} reached nobody: they were caught on the way, or nobody waited for them.`
      : []
  ].filter((sentence) => sentence.length > 0);
}

/** Where a group starts, what it passes, and where people see it. */
export function detailReading(detail: FailureDetail): Words[] {
  const { group, ways, startsAs, apart, places } = detail;
  const sentences: Words[] = [];
  const first = ways[0];
  if (first) {
    const [start, ...rest] = first.stations;
    const onTheWay = rest.slice(0, -1).map(({ service }) => service);
    const end = rest.at(-1);
    sentences.push(
      end
        ? words`It starts in ${[start.service]}${onTheWay.length > 0 ? ` and passes ${onTheWay.join(', ')}` : ''}; ${[end.service]} ${first.seen > 0 ? `answers ${end.label}` : 'catches it'}. Mend it in ${[start.service]}.`
        : words`It starts in ${[start.service]}, and ${first.seen > 0 ? 'people see it there.' : 'nobody waits for it, or it is caught there.'}`
    );
  } else if (startsAs[0])
    sentences.push(
      words`It does not start here: it passes on ${[failureName(startsAs[0].identity)]}, ${[plural(startsAs[0].times, 'time')]}. Mend that one.`
    );
  const caught = group.times - group.seen;
  if (group.seen === 0) sentences.push(['No request of a person failed of it.']);
  else if (caught > 0)
    sentences.push(
      words`${[formatCount(caught)]} of ${[formatCount(group.times)]} were caught, or nobody waited for them.`
    );
  if (places.releases.length === 1 && apart.rows.some(({ name }) => name === 'release'))
    sentences.push(words`It was seen only with release ${[places.releases[0].name]}.`);
  const [most] = apart.rows;
  if (most)
    sentences.push(
      words`${[formatShare(most.slowShare)]} of these requests have ${[`${most.name} = ${most.value}`]}, against ${[formatShare(most.otherShare)]} of the others.`
    );
  return sentences;
}
