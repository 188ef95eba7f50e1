import { ACCOUNTS } from './account';
import { bookWindow, chosenAt, type Stretch, type Work } from './booking';
import { splitByAccount, type BookedStretch } from './timed-events';
import type { TraceTree } from './tree';

/** Own-code stretches shorter than this are never unseen, nanoseconds. */
export const UNSEEN_MIN_NS = 50e6;

/** Time by account, before it is known how much of the own code is unseen: that depends on the length of the request around it. */
export interface TimeSum {
  /** In the order of `ACCOUNTS`. */
  byAccount: Float64Array;
  /** The longest stretches of own code that may be unseen, longest first. */
  longest: readonly number[];
}

/** Stretches longer than a tenth of a request are at most nine: what is unseen in it is among its ten longest. */
const LONGEST = 10;
const NONE: readonly number[] = [];
const PLACE = new Map(ACCOUNTS.map((account, i) => [account, i]));

const emptySum = (): TimeSum => ({ byAccount: new Float64Array(ACCOUNTS.length), longest: NONE });

const longestOf = (a: readonly number[], b: readonly number[]): readonly number[] =>
  a.length === 0 ? b : b.length === 0 ? a : [...a, ...b].sort((x, y) => y - x).slice(0, LONGEST);

function addStretch(sum: TimeSum, { account, from, to }: BookedStretch): void {
  const length = to - from;
  sum.byAccount[PLACE.get(account)!] += length;
  if (account === 'ownCode' && length > UNSEEN_MIN_NS) sum.longest = longestOf(sum.longest, [length]);
}

function addSum(sum: TimeSum, { byAccount, longest }: TimeSum): void {
  for (let i = 0; i < byAccount.length; i++) sum.byAccount[i] += byAccount[i];
  sum.longest = longestOf(sum.longest, longest);
}

/**
 * A request whose walk ends in a request inside it that outlasts it. Cut off a little earlier, the walk is the same but for that last part: what comes
 * before it is `rest`.
 */
interface Link {
  inner: number;
  rest: TimeSum;
  /** The walk is the same for every end after this one, nanoseconds on the tree's axis. */
  after: number;
}

/** A way along 2^k links at once. */
interface Leap {
  to: number;
  /** It holds for every end after `after` and before `before`. */
  after: number;
  before: number;
  longest: readonly number[];
}

/**
 * What each request spends, those inside it included. A request inside is added as a whole where its whole time counts. Where it outlasts the
 * request around it only a part does; along a chain of such requests the parts are leapt over, so that a chain of n takes n log n steps, not n².
 */
export class RequestSums {
  readonly #tree: TraceTree;
  readonly #innermost: Int32Array;
  readonly #work: Work;
  readonly #sums = new Map<number, TimeSum>();
  readonly #links = new Map<number, Link>();
  readonly #leaps = new Map<number, Leap[]>();
  /** Sums of `rest` from a request to the end of its chain: a difference of two is what lies between. */
  readonly #toEnd = new Map<number, Float64Array>();

  constructor(tree: TraceTree, innermost: Int32Array, work: Work) {
    this.#tree = tree;
    this.#innermost = innermost;
    this.#work = work;
  }

  /**
   * Adds a request; those inside it were added before.
   * @param stretches its own, with the accounts of their spans. @param inner what requests inside take of it, in time order.
   */
  add(request: number, stretches: readonly BookedStretch[], inner: readonly Stretch[]): TimeSum {
    const rest = emptySum();
    for (const stretch of stretches) addStretch(rest, stretch);
    const last = inner.at(-1);
    if (!last) return this.#keep(request, rest);
    for (let i = 0; i < inner.length - 1; i++) this.#addWindow(rest, inner[i]);
    const sum: TimeSum = { byAccount: rest.byAccount.slice(), longest: rest.longest };
    this.#addWindow(sum, last);
    const after = this.#sameAfter(request, last);
    if (after !== null) this.#link(request, { inner: last.node, rest, after });
    return this.#keep(request, sum);
  }

  #keep(request: number, sum: TimeSum): TimeSum {
    this.#sums.set(request, sum);
    return sum;
  }

  /**
   * From which end on a request's walk begins with this very request inside; null where its last part is something else.
   * From its top downwards each node must be chosen, as it is at the end, at every earlier end too.
   */
  #sameAfter(request: number, { node: inner, from, to }: Stretch): number | null {
    const { start, end } = this.#tree;
    if (to !== end[request] || from !== start[inner] || end[inner] <= to) return null;
    let after = from;
    for (let at = request; at !== inner;) {
      const chosen = chosenAt(this.#tree, at, to);
      // What begins before the one around it is cut off at its beginning too.
      if (chosen === null || start[chosen.child] < start[at]) return null;
      after = Math.max(after, chosen.after);
      at = chosen.child;
      if (this.#innermost[at] !== request && at !== inner) return null;
    }
    return after;
  }

  #link(request: number, link: Link): void {
    this.#links.set(request, link);
    const { rest, inner, after } = link;
    const toEnd = this.#toEnd.get(inner)?.slice() ?? new Float64Array(ACCOUNTS.length);
    for (let i = 0; i < toEnd.length; i++) toEnd[i] += rest.byAccount[i];
    this.#toEnd.set(request, toEnd);
    const leaps: Leap[] = [{ to: inner, after, before: this.#tree.end[request], longest: rest.longest }];
    for (let k = 0; ; k++) {
      const next = this.#leaps.get(leaps[k].to)?.[k];
      if (!next) break;
      leaps.push({
        to: next.to,
        after: Math.max(leaps[k].after, next.after),
        before: Math.min(leaps[k].before, next.before),
        longest: longestOf(leaps[k].longest, next.longest)
      });
    }
    this.#leaps.set(request, leaps);
  }

  /** Adds what a request inside takes of a window. */
  #addWindow(sum: TimeSum, window: Stretch): void {
    const { start, end } = this.#tree;
    const waiting = [window];
    for (let next = waiting.pop(); next; next = waiting.pop()) {
      const { from, to } = next;
      let { node } = next;
      if (from === start[node]) node = this.#leap(sum, node, to);
      const begins = node === next.node ? from : start[node];
      if (begins === start[node] && to === end[node]) addSum(sum, this.#sums.get(node)!);
      else this.#walk(sum, { node, from: begins, to }, waiting);
    }
  }

  /** Adds as many links of a chain as hold for an end. @returns the request that is still to be added up to that end. */
  #leap(sum: TimeSum, from: number, to: number): number {
    let node = from;
    for (let leaps = this.#leaps.get(node); leaps; leaps = this.#leaps.get(node)) {
      let k = leaps.length - 1;
      while (k >= 0 && !(to > leaps[k].after && to < leaps[k].before)) k--;
      if (k < 0) break;
      this.#work.left--;
      sum.longest = longestOf(sum.longest, leaps[k].longest);
      node = leaps[k].to;
    }
    if (node === from) return node;
    const [whole, rest] = [this.#toEnd.get(from)!, this.#toEnd.get(node)];
    for (let i = 0; i < whole.length; i++) sum.byAccount[i] += whole[i] - (rest?.[i] ?? 0);
    return node;
  }

  /** Walks a part of a request anew; parts of requests inside it wait to be added. */
  #walk(sum: TimeSum, window: Stretch, waiting: Stretch[]): void {
    const { node } = window;
    bookWindow(
      this.#tree,
      window,
      (below) => this.#innermost[below] !== node,
      this.#work,
      (stretch) => {
        if (this.#innermost[stretch.node] !== node) {
          waiting.push(stretch);
          return;
        }
        const parts: BookedStretch[] = [];
        splitByAccount(this.#tree, stretch, parts);
        for (const part of parts) addStretch(sum, part);
      }
    );
  }
}
