import type { Span } from '../trace/span';
import type { TraceTree } from '../trace/tree';

/**
 * What an outgoing HTTP call spent its time with, nanoseconds. What is left of its duration is not told: it waited for a connection of the client, was
 * prepared, or its sender says nothing of it.
 */
export interface CallPhases {
  /** Its host's name was looked up. */
  lookupNs: number;
  /** A connection was opened. */
  connectNs: number;
  /** The connection was made secret. */
  tlsNs: number;
  /** From the connection (from the start where none is told of) to the first byte of the answer; null where that is not told. */
  firstByteNs: number | null;
  /** From the first byte to the end; null where the first byte is not told. */
  restNs: number | null;
}

/**
 * Phases of a call, from events of its span named as W3C Resource Timing names its moments (so OpenTelemetry's SDK for browsers writes them, and
 * `tromix run`), or from spans inside it of OpenTelemetry's instrumentations of name look-ups and sockets (`dns.lookup`, `tcp.connect`, `tls.connect`);
 * null where neither tells anything.
 * @param tree a tree, @param node of the call
 */
export function callPhases(tree: TraceTree, node: number): CallPhases | null {
  return fromEvents(tree.nodes[node].span) ?? fromSpans(tree, node);
}

function fromEvents({ events, durationNs }: Span): CallPhases | null {
  if (events.length === 0) return null;
  const moments = new Map(events.map(({ name, offsetNs }) => [name, offsetNs]));
  const at = (name: string): number | null => {
    const offset = moments.get(name);
    return offset !== undefined && offset >= 0 && offset <= durationNs ? offset : null;
  };
  const between = (from: number | null, to: number | null): number =>
    from !== null && to !== null && to > from ? to - from : 0;
  const connectEnd = at('connectEnd');
  const secure = at('secureConnectionStart');
  const first = at('responseStart');
  const lookupEnd = at('domainLookupEnd');
  if (first === null && connectEnd === null && lookupEnd === null) return null;
  // Of a connection that was there all moments before the request are those of its start.
  const begun = Math.max(connectEnd ?? 0, lookupEnd ?? 0, at('requestStart') ?? 0);
  return {
    lookupNs: between(at('domainLookupStart'), lookupEnd),
    connectNs: between(at('connectStart'), secure ?? connectEnd),
    tlsNs: between(secure, connectEnd),
    firstByteNs: first === null ? null : Math.max(0, first - begun),
    restNs: first === null ? null : durationNs - Math.max(first, begun)
  };
}

const LOOKUP = 'dns.lookup';
const CONNECT = 'tcp.connect';
const SECURE = 'tls.connect';

function fromSpans(tree: TraceTree, node: number): CallPhases | null {
  const found: Record<string, number[]> = { [LOOKUP]: [], [CONNECT]: [], [SECURE]: [] };
  const add = (child: number): void => {
    const of = found[tree.nodes[child].span.name];
    if (!of) return;
    of.push(child);
    // Over a secret connection the plain one is opened inside.
    tree.children[child].forEach(add);
  };
  tree.children[node].forEach(add);
  const took = (nodes: readonly number[]): number =>
    nodes.reduce((sum, one) => sum + tree.end[one] - tree.start[one], 0);
  if (Object.values(found).every(({ length }) => length === 0)) return null;
  // A socket is told from when it was asked to connect: the look-up lies within it.
  const within = found[CONNECT].flatMap((socket) =>
    found[LOOKUP].map((lookup) => overlap(tree, socket, lookup))
  );
  return {
    lookupNs: took(found[LOOKUP]),
    connectNs: took(found[CONNECT]) - within.reduce((sum, ns) => sum + ns, 0),
    tlsNs: found[SECURE].length > 0 ? Math.max(0, took(found[SECURE]) - took(found[CONNECT])) : 0,
    firstByteNs: null,
    restNs: null
  };
}

const overlap = ({ start, end }: TraceTree, a: number, b: number): number =>
  Math.max(0, Math.min(end[a], end[b]) - Math.max(start[a], start[b]));
