import { formatCount, formatShare, plural } from '@tromix/core/text/format';
import type { Gone } from '@tromix/core/findings/gone';
import type { FoundGroup } from '$lib/server/queries/found-group';

/** A finding over many requests in one sentence; parts between stars are bold. */
export function foundSentence(finding: FoundGroup): string {
  const share = formatShare(finding.share);
  const cost = `It costs *${share}* of all the time spent here.`;
  switch (finding.rule) {
    case 'query-per-row':
    case 'row-by-row-writes':
    case 'chatty-remote':
    case 'chatty-cache':
    case 'chatty-messaging':
      return `*${finding.endpoint}* makes the same call ${finding.typicalCalls === null ? 'very often' : `*${formatCount(finding.typicalCalls)} times*`} a request. ${cost}`;
    case 'blind-stretch':
      return `Nothing was recorded inside *${finding.subject}* of ${finding.endpoint}. It holds *${share}* of all the time spent here.`;
    case 'same-call-again':
      return `*${finding.endpoint}* asks for what it already has. The repeats cost *${share}* of all the time spent here.`;
    case 'one-slow-call':
      return `One call decides how long *${finding.endpoint}* takes. ${cost}`;
    case 'could-run-together':
      return `*${finding.endpoint}* makes different calls one after another. What waiting for each costs is *${share}* of all the time spent here.`;
    case 'too-many-rows':
      return `*${finding.endpoint}* reads very many rows at once. ${cost}`;
    case 'round-timeout':
      return `Calls of *${finding.endpoint}* run into a limit. The wait costs *${share}* of all the time spent here.`;
    case 'retry-storm':
      return `*${finding.endpoint}* tries a failing call again and again. The failed attempts cost *${share}* of all the time spent here.`;
    case 'waits-for-connection':
      return `*${finding.endpoint}* waits for a free connection. ${cost}`;
    case 'waits-for-lock':
      return `*${finding.endpoint}* waits for a lock. ${cost}`;
    case 'failed-but-waited':
      return `*${finding.endpoint}* waits for a call that then fails. ${cost}`;
    default:
      return `${finding.sentence} ${cost}`;
  }
}

/** Since when a finding is no longer there. */
export const goneWords = ({ release, after, before, found }: Gone): string =>
  `Gone since ${release}: 0 of ${plural(after, 'request')}, ${formatCount(found)} of ${formatCount(before)} before.`;
