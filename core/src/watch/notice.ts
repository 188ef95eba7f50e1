import { formatDuration } from '../text/format';
import { figureOf } from './figures';
import type { Firing } from './walk';
import { watchName, type Watch } from './watch';
import { againstWords, conditionWords, watchedWords } from './words';

/** What is told of a watch. */
export const NOTICE_KINDS = ['on', 'off', 'no data', 'test'] as const;
export type NoticeKind = (typeof NOTICE_KINDS)[number];

/** A notice as webhooks send it: the form of the body is that of Standard Webhooks 1.0.0 (`type`, `timestamp`, `data`). */
export interface Notice {
  type: 'watch.on' | 'watch.off' | 'watch.no-data' | 'watch.test';
  /** When it was found, ISO 8601. */
  timestamp: string;
  data: {
    watch: { id: string; name: string; severity: Watch['severity']; owner: string; condition: string };
    /** One sentence that says it all. */
    sentence: string;
    figure: string;
    /** null where there is none; nanoseconds, shares from 0 to 1, or plain numbers. */
    value: number | null;
    /** The value as it is written. */
    text: string;
    /** What it is held against, where that is an earlier time. */
    before: number | null;
    /** When it came on; and, of one that is over, when it went off. ISO 8601. */
    since: string;
    until: string | null;
    /** Minutes that it was judged late, since the server was not running. */
    lateMinutes: number;
    /** Paths of this application. */
    links: { watch: string };
  };
}

const TYPES: Readonly<Record<NoticeKind, Notice['type']>> = {
  on: 'watch.on',
  off: 'watch.off',
  'no data': 'watch.no-data',
  test: 'watch.test'
};

/** Words what happened to a watch. @param nowMs when it was found, epoch milliseconds */
export function noticeOf(
  kind: NoticeKind,
  id: string,
  watch: Watch,
  firing: Pick<Firing, 'on' | 'off' | 'value' | 'before' | 'worst'>,
  nowMs: number,
  lateMinutes = 0
): Notice {
  const { condition, severity, owner } = watch;
  const { title, text } = figureOf(condition.watched);
  const iso = (minute: number): string => new Date((minute + 1) * 60_000).toISOString();
  return {
    type: TYPES[kind],
    timestamp: new Date(nowMs).toISOString(),
    data: {
      watch: { id, name: watchName(watch), severity, owner, condition: conditionWords(condition) },
      sentence: sentenceOf(kind, watch, firing),
      figure: title,
      value: firing.value,
      text: firing.value === null ? '' : text(firing.value),
      before: firing.before,
      since: iso(firing.on),
      until: firing.off === null ? null : iso(firing.off),
      lateMinutes,
      links: { watch: `/watches/${id}` }
    }
  };
}

/** What happened, in a sentence. */
export function sentenceOf(
  kind: NoticeKind,
  { condition }: Pick<Watch, 'condition'>,
  { on, off, value, before, worst }: Pick<Firing, 'on' | 'off' | 'value' | 'before' | 'worst'>
): string {
  const { watched, limit } = condition;
  const { text } = figureOf(watched);
  const what = capital(watchedWords(watched));
  const isCounted = watched.of === 'crashes' || (watched.of === 'failures' && watched.figure === 'new');
  if (kind === 'test') return `This is a test of the watch on ${watchedWords(watched)}.`;
  if (kind === 'no data')
    return `${what} has had no value for ${formatDuration(condition.silentAfter * 60e9)}.`;
  if (kind === 'off') {
    const lasted = off === null ? '' : ` after ${formatDuration((off - on) * 60e9)}`;
    const at = worst === null ? '' : `; it was ${text(worst)} at the worst`;
    return isCounted
      ? `${what}: no more than is watched for${lasted}.`
      : `${what} is back within its limit${lasted}${at}.`;
  }
  if (isCounted)
    return `${what}: ${value === null ? 'none' : text(value)} in ${formatDuration(condition.over * 60e9)}.`;
  const is = value === null ? '' : ` is ${text(value)}`;
  const than =
    limit.by === 'number'
      ? `, ${limit.side} ${text(limit.on)}`
      : before === null
        ? ''
        : `, clearly worse than ${text(before)} ${againstWords(limit)}`;
  return `${what}${is}${than}.`;
}

/** Terms and names stay as they are: `p95`, `process.memory.usage`. */
const capital = (text: string): string =>
  /^\w+(?:\d|[._])/.test(text) ? text : text.charAt(0).toUpperCase() + text.slice(1);
