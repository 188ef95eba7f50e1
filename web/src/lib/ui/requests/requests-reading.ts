import { formatCount, formatDuration, formatShare, plural } from '@tromix/core/text/format';
import { words, type Words } from '@tromix/core/text/words';
import type { RequestList } from '$lib/server/queries/requests';

/** What the requests that match show, in a few sentences. @param groupName what they are grouped by */
export function requestsReading(list: RequestList, groupName: string): Words[] {
  if (list.count === 0) return [['No requests match.']];
  const withFindings = list.rows.filter(({ findings }) => findings > 0).length;
  const [first] = list.groups ?? [];
  return [
    words`${[plural(list.count, 'request')]} match. Half take longer than ${[formatDuration(list.p50Ns)]}, one in twenty longer than ${[formatDuration(list.p95Ns)]}.`,
    withFindings > 0
      ? words`${[formatCount(withFindings)]} of ${list.rows.length === list.count ? 'them' : `the ${formatCount(list.rows.length)} listed`} have findings.`
      : [],
    list.failed > 0
      ? words`${[formatCount(list.failed)]} failed (${formatShare(list.failed / list.count)}).`
      : [],
    first && list.groups!.length > 1
      ? words`By ${groupName}, ${[first.value || '(none)']} takes most of the time: ${[formatShare(first.share)]} with ${plural(first.count, 'request')}.`
      : [],
    list.counted !== null && list.counted > list.count
      ? [`${formatCount(list.counted)} were counted in this scope; the others were not kept in full.`]
      : []
  ].filter((sentence) => sentence.length > 0);
}
