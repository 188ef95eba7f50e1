import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { anySpans } from '../testing/any-trace';
import { span, type SpanShape } from '../testing/spans';
import { book, bookWindow, TooEntangled } from './booking';
import { accountTrace } from './requests';
import { buildTree, type TraceTree } from './tree';

const tree = (...shapes: SpanShape[]): TraceTree => buildTree(shapes.map(span));

/** The stretches as `name from–to`, in milliseconds. */
function written(of: TraceTree): string[] {
  return book(of, of.roots[0]).map(
    ({ node, from, to }) => `${of.nodes[node].span.name} ${from / 1e6}–${to / 1e6}`
  );
}

/** The definition taken word for word (docs/engine.md, "Booking"): slow, recursive, the judge of the fast one. */
function bookByDefinition(
  of: TraceTree,
  node: number,
  from: number,
  to: number,
  out: [number, number, number][]
): void {
  let t = to;
  for (;;) {
    let chosen = -1;
    for (const child of of.children[node]) {
      if (!(of.start[child] < t && of.end[child] > from)) continue;
      const reach = Math.min(of.end[child], t);
      const best = chosen < 0 ? -Infinity : Math.min(of.end[chosen], t);
      if (reach > best || (reach === best && of.start[child] < of.start[chosen])) chosen = child;
    }
    if (chosen < 0 || t <= from) break;
    const childTo = Math.min(of.end[chosen], t);
    if (t > childTo) out.push([node, childTo, t]);
    bookByDefinition(of, chosen, Math.max(of.start[chosen], from), childTo, out);
    t = Math.max(of.start[chosen], from);
  }
  if (t > from) out.push([node, from, t]);
}

describe('book', () => {
  it('gives all the time of a span without children to itself', () => {
    expect(written(tree({ id: 'r', from: 0, to: 10 }))).toEqual(['r 0–10']);
  });

  it('books children one after another and the gaps to the parent', () => {
    const of = tree(
      { id: 'r', from: 0, to: 10 },
      { id: 'a', parent: 'r', from: 1, to: 3 },
      { id: 'b', parent: 'r', from: 5, to: 8 }
    );
    expect(written(of)).toEqual(['r 0–1', 'a 1–3', 'r 3–5', 'b 5–8', 'r 8–10']);
  });

  it('follows the child that ends last among parallel ones', () => {
    const of = tree(
      { id: 'r', from: 0, to: 10 },
      { id: 'short', parent: 'r', from: 1, to: 4 },
      { id: 'long', parent: 'r', from: 2, to: 9 }
    );
    expect(written(of)).toEqual(['r 0–1', 'short 1–2', 'long 2–9', 'r 9–10']);
  });

  it('takes the earlier start where ends are equal', () => {
    const of = tree(
      { id: 'r', from: 0, to: 10 },
      { id: 'late', parent: 'r', from: 4, to: 8 },
      { id: 'early', parent: 'r', from: 2, to: 8 }
    );
    expect(written(of)).toEqual(['r 0–2', 'early 2–8', 'r 8–10']);
  });

  it('clips a child that outlives its parent', () => {
    const of = tree({ id: 'r', from: 0, to: 10 }, { id: 'a', parent: 'r', from: 6, to: 30 });
    expect(written(of)).toEqual(['r 0–6', 'a 6–10']);
  });

  it('does not overflow on a chain of 5,000 spans', () => {
    const shapes: SpanShape[] = [{ id: 's0', from: 0, to: 20_000 }];
    for (let i = 1; i < 5000; i++) shapes.push({ id: `s${i}`, parent: `s${i - 1}`, from: i, to: 20_000 - i });
    const of = tree(...shapes);
    const sum = book(of, of.roots[0]).reduce((total, { from, to }) => total + to - from, 0);
    expect(sum).toBe(20_000e6);
  });
});

describe('properties of booking', () => {
  it('agrees with the definition taken word for word, and tiles the span exactly', () => {
    fc.assert(
      fc.property(anySpans, (shapes) => {
        const of = tree(...shapes);
        for (const root of of.roots) {
          const stretches = book(of, root);
          const expected: [number, number, number][] = [];
          bookByDefinition(of, root, of.start[root], of.end[root], expected);
          expect(stretches.map(({ node, from, to }) => [node, from, to])).toEqual(
            expected.sort((a, b) => a[1] - b[1])
          );
          let at = of.start[root];
          for (const { from, to } of stretches) {
            expect(from).toBe(at);
            at = to;
          }
          expect(at).toBe(of.end[root]);
        }
      }),
      { numRuns: 300 }
    );
  });

  it('makes every ledger add up to its request, and counts no nanosecond twice over all requests', () => {
    fc.assert(
      fc.property(anySpans, (shapes) => {
        const trace = accountTrace(tree(...shapes));
        let outermost = 0;
        for (const request of trace.requests) {
          const sum = Object.values(request.ledger).reduce((total, part) => total + part, 0);
          expect(sum).toBe(request.durationNs);
          const parent = trace.tree.parent[request.node];
          const around = parent < 0 ? -1 : trace.innermost[parent];
          const own = request.ownStretches.reduce((total, { from, to }) => total + to - from, 0);
          // Background work counts by itself, and so does each request in it.
          if (request.kind !== 'request') outermost += own;
          else if (
            around < 0 ||
            trace.byNode.get(around)!.kind !== 'request' ||
            trace.tree.start[request.node] >= trace.tree.end[around]
          )
            outermost += request.durationNs;
        }
        const exclusive = trace.requests.reduce((total, { exclusiveNs }) => total + exclusiveNs, 0);
        expect(exclusive).toBe(outermost);
      }),
      { numRuns: 300 }
    );
  });

  it('gives a walk up that takes more steps than it may', () => {
    const of = tree(
      { id: 'r', from: 0, to: 100 },
      { id: 'a', parent: 'r', from: 10, to: 40 },
      { id: 'b', parent: 'r', from: 30, to: 90 }
    );
    const [root] = of.roots;
    const walk = (left: number): void =>
      bookWindow(
        of,
        { node: root, from: of.start[root], to: of.end[root] },
        () => false,
        { left },
        () => undefined
      );
    expect(() => walk(2)).toThrow(TooEntangled);
    expect(() => walk(20)).not.toThrow();
  });
});
