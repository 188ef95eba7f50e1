import { formatCount, formatDuration, formatShare, plural } from '@tromix/core/text/format';
import { words, type Words } from '@tromix/core/text/words';
import type { BreakdownRow, EndpointPage } from '$lib/server/queries/endpoint';
import { isCallKind, partNoun } from './part-kinds';

/** A smaller change of the request rate is not mentioned. */
const OFTEN = 1.25;
/** A part is mentioned from this share of an average request on. */
const MUCH = 0.2;
/** How much slower than the others a host must be to be mentioned. */
const ODD = 1.5;

/** What the endpoint shows, in a few sentences. */
export function endpointReading(page: EndpointPage): Words[] {
  if (page.count === 0) return [['No requests to this endpoint in this time range.']];
  return [
    words`${[plural(page.count, 'request')]}: half take longer than ${[formatDuration(page.p50Ns)]}, one in twenty longer than ${[formatDuration(page.p95Ns)]}.`,
    slowerOrOftener(page),
    mostOf(page.breakdown),
    oddHost(page)
  ].filter((sentence) => sentence.length > 0);
}

/** Tells “it became slower” from “it gets more requests”. */
export function slowerOrOftener({ before, perMinute }: EndpointPage): Words {
  const { verdict, ratio } = before.change;
  if (verdict === 'too few') return ['Too few requests in the time before to say whether it changed.'];
  const rate = perMinute / before.perMinute;
  const often =
    rate >= OFTEN
      ? words`it gets ${[`${rate.toFixed(1)} times`]} as many requests`
      : rate <= 1 / OFTEN
        ? words`it gets only ${[formatShare(rate)]} as many requests`
        : null;
  const slow =
    verdict === 'slower'
      ? words`it became ${['slower']}: the median is ${ratio.toFixed(2)} times what it was`
      : verdict === 'faster'
        ? words`it became ${['faster']}: the median is ${formatShare(1 - ratio)} shorter`
        : null;
  const since = 'Compared with the time before, ';
  if (slow) return [since, ...slow, '; ', ...(often ?? ['it gets as many requests as before']), '.'];
  if (often) return [since, ...words`it is ${['not clearly slower or faster']}, but `, ...often, '.'];
  return words`Compared with the time before, there is ${['no clear change']} in duration or rate.`;
}

/** What an average request is made of, and whether that is one long call or very many short ones. */
export function mostOf(breakdown: readonly BreakdownRow[]): Words {
  const [first] = breakdown;
  if (!first || first.share < MUCH) return [];
  if (!isCallKind(first.kind))
    return words`${[formatShare(first.share)]} of an average request is ${partNoun(first.kind)} in ${[first.name]}.`;
  const each = formatDuration(first.nsPerCall);
  const many =
    first.callsPerRequest >= 5
      ? words`${[`${formatCount(Math.round(first.callsPerRequest))} calls`]} of ${each}. None is slow by itself; there are many`
      : [
          first.callsPerRequest < 1.5
            ? `about one call of ${each}`
            : `${first.callsPerRequest.toFixed(1)} calls of ${each}`
        ];
  return [
    ...words`${[formatDuration(first.nsPerRequest)]} of an average request is spent on one ${partNoun(first.kind)}: `,
    ...many,
    ...words`. That is ${[formatShare(first.share)]} of its time.`
  ];
}

function oddHost({ hosts }: EndpointPage): Words {
  const odd = hosts.find(({ change }) => change.verdict === 'slower' && change.ratio >= ODD);
  return odd && hosts.length > 1
    ? words`${[odd.name]} stands out: its median is ${[`${odd.change.ratio.toFixed(1)} times`]} that of the other hosts.`
    : [];
}
