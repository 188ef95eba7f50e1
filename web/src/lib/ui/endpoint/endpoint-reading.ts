import { formatCount, formatDuration, formatShare, plural } from '@tromix/core/text/format';
import type { BreakdownRow, EndpointPage } from '$lib/server/queries/endpoint';
import { isCallKind, partNoun } from './part-kinds';

/** How much more or less often an endpoint must be asked before it is spoken of. */
const OFTEN = 1.25;
/** A part is spoken of from this share of an average request on. */
const MUCH = 0.2;

/** What the endpoint shows, in a few sentences; parts between stars are bold. */
export function endpointReading(page: EndpointPage): string[] {
  if (page.count === 0) return ['Nobody asked this endpoint in this window.'];
  return [
    `*${plural(page.count, 'request')}*: half of them take longer than *${formatDuration(page.p50Ns)}*, one in twenty longer than *${formatDuration(page.p95Ns)}*.`,
    slowerOrOftener(page),
    mostOf(page.breakdown),
    oddHost(page)
  ].filter(Boolean);
}

/** Tells "it became slower" from "it is asked more often". */
export function slowerOrOftener({ before, perMinute }: EndpointPage): string {
  if (before.change.verdict === 'too few')
    return 'In the time before there were too few requests to say whether it changed.';
  const rate = perMinute / before.perMinute;
  const often =
    rate >= OFTEN
      ? `asked *${rate.toFixed(1)} times* as often`
      : rate <= 1 / OFTEN
        ? `asked only *${formatShare(rate)}* as often`
        : '';
  const { verdict, ratio } = before.change;
  const slow =
    verdict === 'slower'
      ? `became *slower*: the median is ${ratio.toFixed(2)} times what it was`
      : verdict === 'faster'
        ? `became *faster*: the median is ${formatShare(1 - ratio)} shorter`
        : '';
  if (slow && often) return `Against the time before it ${slow}; it is also ${often}.`;
  if (slow) return `Against the time before it ${slow}. It is asked as often as before.`;
  if (often) return `Against the time before it is *not clearly slower or faster*, but ${often}.`;
  return 'Against the time before there is *no clear change*, neither in how long it takes nor in how often it is asked.';
}

/** Says what an average request is made of, and whether that is one long call or very many short ones. */
export function mostOf(breakdown: readonly BreakdownRow[]): string {
  const [first] = breakdown;
  if (!first || first.share < MUCH) return '';
  if (!isCallKind(first.kind))
    return `*${formatShare(first.share)}* of an average request is ${partNoun(first.kind)} in *${first.name}*.`;
  const each = formatDuration(first.nsPerCall);
  const many =
    first.callsPerRequest >= 5
      ? `*${formatCount(Math.round(first.callsPerRequest))} calls* of ${each}: no single one is slow, there are many`
      : first.callsPerRequest < 1.5
        ? `about one call of ${each}`
        : `${first.callsPerRequest.toFixed(1)} calls of ${each}`;
  return `*${formatDuration(first.nsPerRequest)}* of an average request goes to one ${partNoun(first.kind)}: ${many}. That is *${formatShare(first.share)}* of its time.`;
}

function oddHost({ hosts }: EndpointPage): string {
  const odd = hosts.find(({ change }) => change.verdict === 'slower' && change.ratio >= 1.5);
  return odd && hosts.length > 1
    ? `*${odd.name}* stands out: its median is *${odd.change.ratio.toFixed(1)} times* that of the other hosts.`
    : '';
}
