import type { Account } from './account';
import type { Stretch } from './booking';
import { numberOf, type Span } from './span';
import type { TraceTree } from './tree';

interface TimedEvent {
  account: Account;
  fromNs: number;
  toNs: number;
}

/** Span events that say that time passed otherwise than in own code: their names and the attribute with their seconds. */
const TIMED: { name: RegExp; account: Account; seconds: string[] }[] = [
  {
    name: /^(?:gc|v8js\.gc|jvm\.gc)$/i,
    account: 'pause',
    seconds: ['gc.duration', 'v8js.gc.duration', 'jvm.gc.duration']
  },
  { name: /^lock\.wait$/i, account: 'lock', seconds: ['lock.wait.duration'] }
];

function timedEvents(span: Span, spanStart: number): TimedEvent[] {
  const found: TimedEvent[] = [];
  for (const event of span.events) {
    for (const { name, account, seconds } of TIMED) {
      if (!name.test(event.name)) continue;
      const duration = numberOf(event.attributes, ...seconds);
      if (duration === undefined || duration <= 0) continue;
      const fromNs = spanStart + event.offsetNs;
      found.push({ account, fromNs, toNs: fromNs + Math.round(duration * 1e9) });
    }
  }
  return found.sort((a, b) => a.fromNs - b.fromNs);
}

export interface BookedStretch extends Stretch {
  account: Account;
}

/** Splits an own-code stretch where the span's events say it was paused or waited for a lock. The parts tile the whole. */
function splitByEvents(stretch: Stretch, span: Span, spanStart: number): BookedStretch[] {
  const parts: BookedStretch[] = [];
  let at = stretch.from;
  const push = (to: number, account: Account): void => {
    if (to > at) parts.push({ node: stretch.node, from: at, to, account });
    at = Math.max(at, to);
  };
  for (const event of timedEvents(span, spanStart)) {
    const from = Math.max(at, event.fromNs);
    const to = Math.min(stretch.to, event.toNs);
    if (to <= from) continue;
    push(from, 'ownCode');
    push(to, event.account);
  }
  push(stretch.to, 'ownCode');
  return parts;
}

/** Adds a stretch with the account it is booked to; in parts where events of its span say that time passed otherwise. */
export function splitByAccount(tree: TraceTree, stretch: Stretch, into: BookedStretch[]): void {
  const { node, from, to } = stretch;
  const { account, span } = tree.nodes[node];
  if (account !== 'ownCode' || span.events.length === 0) into.push({ node, from, to, account });
  else for (const part of splitByEvents(stretch, span, tree.start[node])) into.push(part);
}
