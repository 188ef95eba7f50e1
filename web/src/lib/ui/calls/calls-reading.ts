import { formatBytes, formatCount, formatDuration, formatShare, plural } from '@tromix/core/text/format';
import { words, type Words } from '@tromix/core/text/words';
import type { CallGroupPage } from '$lib/server/queries/calls/call-group';
import type { CallPoint } from '$lib/server/queries/calls/call-points';
import type { CallRow, CallsPage } from '$lib/server/queries/calls/calls';
import type { Outgoing } from '$lib/server/queries/calls/outgoing';
import { isCallKind, partNoun } from '$lib/ui/endpoint/part-kinds';

/** Calls whose spans do not say which line made them. */
const NO_ORIGIN = 0;
/** How spans get an origin (OpenTelemetry semantic conventions, “Source code attributes”). */
export const ORIGIN_ADVICE: Words = words`To see which line makes a call, set ${['code.file.path']} and ${['code.line.number']} on its span: where you start the span, in a request hook of the client’s instrumentation, or in a span processor that reads the stack.`;

/** What the calls show, in a few sentences. */
export function callsReading({ rows, all }: CallsPage, what: string): Words[] {
  if (rows.length === 0) return [['No calls in this scope.']];
  const [first] = rows;
  const sum = words`${[plural(all.calls, 'call')]} took ${[formatDuration(all.totalNs)]} in total`;
  const share = formatShare(first.share);
  if (what === 'origin' && first.id === NO_ORIGIN)
    return [[...sum, ...words`; for ${[share]} of that no origin was recorded.`], ORIGIN_ADVICE];
  const sentences: Words[] = [
    [
      ...sum,
      ...words`. One ${what === 'call group' ? 'group' : what} takes ${[share]} of it: ${plural(first.calls, 'call')} of ${formatDuration(first.totalNs / first.calls)} on average.`
    ]
  ];
  const chatty = rows.reduce((best, row) => (row.mostCalls > best.mostCalls ? row : best));
  if (chatty.mostCalls >= CHATTY)
    sentences.push(
      words`One request makes up to ${[plural(chatty.mostCalls, 'call')]} of the same group. A fast call costs that many times over.`
    );
  return [...sentences, ...filesReading(rows), ...outgoingReading(rows)];
}

/** How often files were opened, and what was moved, as far as calls say. */
function filesReading(rows: readonly CallRow[]): Words[] {
  if (rows.every(({ opens }) => opens === null)) return [];
  const sum = (value: (row: CallRow) => number): number => rows.reduce((all, row) => all + value(row), 0);
  const read = sum(({ bytesRead }) => bytesRead);
  const written = sum(({ bytesWritten }) => bytesWritten);
  const moved =
    read + written > 0
      ? words`; ${[formatBytes(read)]} were read and ${[formatBytes(written)]} written, as far as calls say`
      : [];
  return [
    [
      ...words`Files were opened ${[
        plural(
          sum(({ opens }) => opens ?? 0),
          'time',
          'times'
        )
      ]}`,
      ...moved,
      '.'
    ]
  ];
}

/** What outgoing requests wait for, and how many ask again. */
function outgoingReading(rows: readonly CallRow[]): Words[] {
  const told = rows.flatMap(({ outgoing }) => outgoing ?? []);
  const sum = (value: (one: Outgoing) => number): number => told.reduce((all, one) => all + value(one), 0);
  const repeated = sum((one) => one.repeated);
  const answered = sum((one) => one.answered);
  const connected = sum((one) => one.lookupNs + one.connectNs + one.tlsNs);
  const sentences: Words[] = [];
  if (answered > 0)
    sentences.push(
      words`Of ${[plural(answered, 'call')]} that tell it, the first byte came after ${[formatDuration(sum((one) => one.firstByteNs) / answered)]} on average, the rest took ${[formatDuration(sum((one) => one.restNs) / answered)]}; connecting took ${[formatDuration(connected)]} in total.`
    );
  if (repeated > 0)
    sentences.push(
      words`${[plural(repeated, 'call')]} asked what an earlier call of the same request had asked.`
    );
  return sentences;
}

/** Calls of a group in one request from which they are mentioned. */
const CHATTY = 20;

/** What one call group shows. */
export function groupReading(page: CallGroupPage): Words[] {
  const { totals, group, endpoints } = page;
  if (totals.calls === 0) return [['No calls of this group in this scope.']];
  const requests = Math.max(1, totals.requests);
  const [most] = endpoints;
  return [
    words`Called ${[plural(totals.calls, 'time', 'times')]} by ${plural(totals.requests, 'request')}: ${[(totals.calls / requests).toFixed(1)]} per request, ${[formatDuration(totals.totalNs / totals.calls)]} each, ${[formatDuration(totals.totalNs / requests)]} in a request.`,
    most && endpoints.length > 1
      ? words`${[most.name]} of ${most.service} calls it most: ${[formatShare(most.share)]} of the time.`
      : [],
    isCallKind(group.kind) ? oftenOrSlow(page.series, partNoun(group.kind)) : [],
    totals.failed > 0
      ? words`${[formatCount(totals.failed)]} failed${totals.retried > 0 ? `, ${formatCount(totals.retried)} were retried` : ''}.`
      : [],
    totals.onRound > 0
      ? words`${[formatCount(totals.onRound)]} ended just after ${page.onRound.map(({ limitNs }) => formatDuration(limitNs)).join(', ')}: likely a timeout.`
      : []
  ].filter((sentence) => sentence.length > 0);
}

/** A smaller difference between the halves is not mentioned. */
const NOTABLE = 1.3;

/** Tells a service that became slow from a healthy one that is called too often: the later half of the time range against the earlier. Empty for neither. */
export function oftenOrSlow(series: readonly CallPoint[], noun: string): Words {
  if (series.length < 4) return [];
  const middle = (series[0].at + series[series.length - 1].at) / 2;
  const side = (later: boolean): { calls: number; bins: number; totalNs: number } =>
    series
      .filter(({ at }) => at > middle === later)
      .reduce(
        (sum, { calls, totalNs }) => ({
          calls: sum.calls + calls,
          bins: sum.bins + 1,
          totalNs: sum.totalNs + totalNs
        }),
        { calls: 0, bins: 0, totalNs: 0 }
      );
  const [before, after] = [side(false), side(true)];
  if (before.calls === 0 || after.calls === 0) return [];
  const rate = after.calls / after.bins / (before.calls / before.bins);
  const time = after.totalNs / after.calls / (before.totalNs / before.calls);
  const often = rate >= NOTABLE;
  const slow = time >= NOTABLE;
  const moreOften = words`${[`${rate.toFixed(1)} times`]} as often`;
  const longer = words`each ${noun} takes ${[`${time.toFixed(1)} times`]} as long`;
  if (often && slow)
    return ['In the later half of this time range it is called ', ...moreOften, ' and ', ...longer, '.'];
  if (often)
    return [
      `Each ${noun} takes as long as before, but it is called `,
      ...moreOften,
      ...words` in the later half of this time range: the called side is ${['healthy, and called too often']}.`
    ];
  if (slow)
    return [
      'It is called as often as before, but ',
      ...longer,
      ...words` in the later half of this time range: the called side ${['became slow']}.`
    ];
  return [];
}
