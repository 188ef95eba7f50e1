import { endpointOf, isEntry } from '../trace/endpoint';
import { innermostRequests, type TraceTree } from '../trace/tree';
import { ERROR_IN_LOG, exceptionsOf, failed, failureWords, tellsOfFailure } from './failed-span';
import {
  NO_IDENTITY,
  identityOf,
  type FailureIdentity,
  type MapFrame,
  type RecordedException
} from './identity';
import { messageTemplate } from './message-template';

/** A place on the way of a failure from where it starts to where people see it: one service, asked once. */
export interface Station {
  service: string;
  /** What it is seen as here: the type of an exception, or a status. */
  label: string;
}

/** One failure in a trace. */
export interface TraceFailure {
  /** The span that tells of it: the innermost, where several tell of the same. */
  node: number;
  /** The request it happened in; −1 in work that serves nobody. */
  request: number;
  identity: FailureIdentity;
  /** null where a span failed without one. */
  exception: RecordedException | null;
  /** Nanoseconds from the base of the tree. */
  atNs: number;
  /** Place among the failures of the trace of the one it only passes on; −1 where it starts here. */
  passesOn: number;
  /** Whether the outermost request failed of it. False where it was caught on the way, or serves nobody. */
  seen: boolean;
  /** From where it starts outwards; the last one is where people see it, or who caught it passed it on to nobody. Only of a failure that starts here. */
  way: Station[];
}

/** More of one trace are told by no more than their number. */
const MAX_FAILURES = 500;

/**
 * The failures of a trace. One starts at a failing span none of whose descendants fails; failing ancestors pass it on: by an exception of their own, or by a status, once a service that is
 * asked. The same exception told of again on its way up, in the same service, is one. The entry span of the outermost request is where people see it.
 */
export function failuresIn(tree: TraceTree, mapFrame?: MapFrame): TraceFailure[] {
  const tells = tree.nodes.map(({ span, missing }) => !missing && tellsOfFailure(span));
  if (!tells.includes(true)) return [];
  const { parent } = tree.reported;
  const below = new Uint8Array(tree.nodes.length);
  tells.forEach((is, node) => {
    if (is) for (let up = parent[node]; up >= 0 && !below[up]; up = parent[up]) below[up] = 1;
  });
  const starts = tells.flatMap((is, node) => (is && !below[node] ? [node] : []));
  const reader = new Reader(tree, innermostRequests(tree), mapFrame);
  for (const node of starts.sort((a, b) => tree.start[a] - tree.start[b])) {
    if (reader.found.length >= MAX_FAILURES) break;
    reader.follow(node, tells);
  }
  return reader.found;
}

class Reader {
  readonly found: TraceFailure[] = [];
  readonly #tree: TraceTree;
  readonly #requests: Int32Array;
  readonly #mapFrame: MapFrame | undefined;
  readonly #passing = new Set<number>();

  constructor(tree: TraceTree, requests: Int32Array, mapFrame: MapFrame | undefined) {
    this.#tree = tree;
    this.#requests = requests;
    this.#mapFrame = mapFrame;
  }

  /** Follows a failure from where it starts upwards. */
  follow(start: number, tells: readonly boolean[]): void {
    const { reported, nodes } = this.#tree;
    this.#handled(start);
    const place = this.found.length;
    const first = this.#failure(start, -1);
    this.found.push(first);
    const way = [this.#station(start)];
    let [said, last] = [first, start];
    let outermost = isEntry(nodes[start].span) ? start : -1;
    for (let up = reported.parent[start]; up >= 0; up = reported.parent[up]) {
      const { span, missing } = nodes[up];
      if (!missing && isEntry(span)) outermost = up;
      if (!tells[up]) continue;
      const sameService = span.resource.service === nodes[last].span.resource.service;
      const own = exceptionsOf(span).at(-1)?.exception;
      const isNew = own ? !(sameService && isSame(own, said.exception)) : !sameService;
      if (!sameService) way.push(this.#station(up));
      last = up;
      if (!isNew) continue;
      if (this.#passing.has(up)) continue;
      this.#passing.add(up);
      said = this.#failure(up, place);
      this.found.push(said);
    }
    first.seen = outermost >= 0 && failed(nodes[outermost].span);
    // Where people see it, it is what they were answered.
    if (
      first.seen &&
      way.length > 1 &&
      nodes[outermost].span.resource.service === nodes[last].span.resource.service
    )
      way[way.length - 1] = this.#station(outermost);
    first.way = way;
    for (const failure of this.found.slice(place + 1)) failure.seen = first.seen;
  }

  /** Exceptions that a span told of before the one it ended with: it went on after each, so they were caught. */
  #handled(node: number): void {
    const told = exceptionsOf(this.#tree.nodes[node].span);
    const last = told.at(-1);
    told.forEach((thrown, i) => {
      const isLast = told.slice(i + 1).some(({ exception }) => isSame(exception, thrown.exception));
      if (thrown === last || isLast) return;
      const failure = this.#failure(node, -1, thrown);
      const { service } = this.#tree.nodes[node].span.resource;
      this.found.push({ ...failure, way: [{ service, label: thrown.exception.type || 'an exception' }] });
    });
  }

  #failure(
    node: number,
    passesOn: number,
    thrown = exceptionsOf(this.#tree.nodes[node].span).at(-1)
  ): TraceFailure {
    const { start, end } = this.#tree;
    const exception = thrown?.exception ?? null;
    return {
      node,
      request: this.#requests[node],
      identity: this.#identity(node, exception),
      exception,
      atNs: thrown
        ? Math.min(end[node], Math.max(start[node], start[node] + thrown.event.offsetNs))
        : end[node],
      passesOn,
      seen: false,
      way: []
    };
  }

  /** Without a frame of the program's own it is the request's endpoint, or what was called, that tells failures apart. */
  #identity(node: number, exception: RecordedException | null): FailureIdentity {
    const { span } = this.#tree.nodes[node];
    const told = exception ? identityOf(exception, this.#mapFrame) : NO_IDENTITY;
    if (told.function !== '' || told.file !== '') return told;
    const what = isEntry(span) ? endpointOf(span) : (span.call?.fingerprint ?? messageTemplate(span.name));
    return {
      ...told,
      message: told.message || (told.type ? '' : failureWords(span)),
      endpoint: `${span.resource.service}: ${what}`
    };
  }

  #station(node: number): Station {
    const { span } = this.#tree.nodes[node];
    const thrown = exceptionsOf(span).at(-1)?.exception;
    const type = thrown?.type || (thrown && !failed(span) ? ERROR_IN_LOG : '');
    const words = failureWords(span);
    return {
      service: span.resource.service,
      label: type || (isEntry(span) ? `${words} ${endpointOf(span)}` : words)
    };
  }
}

const isSame = (a: RecordedException, b: RecordedException | null): boolean =>
  b !== null && a.type === b.type && a.message === b.message;
