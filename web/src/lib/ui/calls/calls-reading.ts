import { formatCount, formatDuration, formatShare, plural } from '@tromix/core/text/format';
import type { CallGroupPage, CallPoint, CallsPage } from '$lib/server/queries/calls';
import { isCallKind, partNoun } from '$lib/ui/endpoint/part-kinds';

/** Calls whose spans do not say which line made them. */
const NO_ORIGIN = 0;
/** How spans get an origin (OpenTelemetry semantic conventions, “Source code attributes”). */
export const ORIGIN_ADVICE =
  'Which line made a call is told by *code.file.path* and *code.line.number* on its span: set them where you start the span, in a request hook of the client’s instrumentation, or by a span processor that looks at the stack.';

/** What the calls show, in a few sentences; parts between stars are bold. */
export function callsReading({ rows, all }: CallsPage, what: string): string[] {
  if (rows.length === 0) return ['No calls were recorded in this scope.'];
  const [first] = rows;
  if (what === 'origin' && first.id === NO_ORIGIN)
    return [
      `*${plural(all.calls, 'call')}* took *${formatDuration(all.totalNs)}* in all; of *${formatShare(first.share)}* of that no origin was recorded.`,
      ORIGIN_ADVICE
    ];
  const sentences = [
    `*${plural(all.calls, 'call')}* took *${formatDuration(all.totalNs)}* in all. ${what === 'call group' ? 'One group' : `One ${what}`} holds *${formatShare(first.share)}* of it: ${plural(first.calls, 'call')} of ${formatDuration(first.totalNs / first.calls)} on average.`
  ];
  const chatty = rows.reduce((best, row) => (row.mostCalls > best.mostCalls ? row : best));
  if (chatty.mostCalls >= 20)
    sentences.push(
      `The most calls of one group in one request are *${formatCount(chatty.mostCalls)}*. A call that is fast by itself costs that many times over.`
    );
  return sentences;
}

/** What one call group shows. */
export function groupReading(page: CallGroupPage): string[] {
  const { totals, group, endpoints } = page;
  if (totals.calls === 0) return ['No calls of this group in this scope.'];
  const perRequest = totals.calls / Math.max(1, totals.requests);
  const sentences = [
    `Called *${plural(totals.calls, 'time', 'times')}* by ${plural(totals.requests, 'request')}: *${perRequest.toFixed(1)}* per request, *${formatDuration(totals.totalNs / totals.calls)}* each, *${formatDuration(totals.totalNs / Math.max(1, totals.requests))}* in a request.`
  ];
  const [most] = endpoints;
  if (most && endpoints.length > 1)
    sentences.push(`*${most.name}* of ${most.service} asks most: *${formatShare(most.share)}* of the time.`);
  if (isCallKind(group.kind)) sentences.push(oftenOrSlow(page.series, partNoun(group.kind)));
  if (totals.failed > 0)
    sentences.push(
      `*${formatCount(totals.failed)}* failed${totals.retried > 0 ? `, ${formatCount(totals.retried)} were tried again` : ''}.`
    );
  if (totals.onRound > 0)
    sentences.push(
      `*${formatCount(totals.onRound)}* ended just after a round limit (${page.onRound.map(({ limitNs }) => formatDuration(limitNs)).join(', ')}): most likely a timeout.`
    );
  return sentences.filter(Boolean);
}

/** How much a half must differ from the other to be spoken of. */
const NOTABLE = 1.3;

/** Tells a service that became slow from a healthy one that is asked too often: the later half of the window against the earlier. */
export function oftenOrSlow(series: readonly CallPoint[], noun: string): string {
  if (series.length < 4) return '';
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
  if (before.calls === 0 || after.calls === 0) return '';
  const rate = after.calls / after.bins / (before.calls / before.bins);
  const time = after.totalNs / after.calls / (before.totalNs / before.calls);
  const often = rate >= NOTABLE;
  const slow = time >= NOTABLE;
  if (often && slow)
    return `In the later half of the window it is asked *${rate.toFixed(1)} times* as often and each ${noun} takes *${time.toFixed(1)} times* as long.`;
  if (often)
    return `Each ${noun} takes as long as before, but it is asked *${rate.toFixed(1)} times* as often in the later half of the window: the called side is *healthy, and asked too often*.`;
  if (slow)
    return `It is asked as often as before, but each ${noun} takes *${time.toFixed(1)} times* as long in the later half of the window: the called side *became slow*.`;
  return '';
}
