import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { requestParts } from '../calls/parts';
import { findInRequest } from '../findings/request-findings';
import { anySpans } from '../testing/any-trace';
import { resource, span, type SpanShape } from '../testing/spans';
import { emptyLedger } from './account';
import { accountTrace, subtree } from './requests';
import { SpanKind, type Span } from './span';
import { buildTree } from './tree';

/** Requests one inside the other. @param outlast by how much each ends after the one around it, milliseconds. */
function chain(depth: number, outlast: number): Span[] {
  const [root] = [span({ id: 'n0', from: 0, to: 60_000, kind: SpanKind.SERVER })];
  const id = (i: number): string => i.toString(16).padStart(16, '0');
  return Array.from({ length: depth }, (_, i) => ({
    ...root,
    spanId: id(i + 1),
    parentId: i === 0 ? '' : id(i),
    startUs: root.startUs + i,
    durationNs: 60_000e6 - i * 1000 + i * (outlast * 1e6 - 1000)
  }));
}

/** Chains of requests and calls that overlap at their ends, outlast each other or not, with brothers and sisters here and there. */
const overlapping = fc
  .array(
    fc.record({
      up: fc.constantFrom(1, 1, 1, 1, 1, 2, 3),
      from: fc.constantFrom(0, 0, 1, 5, 60),
      end: fc.constantFrom(-200, -3, -1, 0, 0, 1, 1, 2, 40, 300),
      kind: fc.constantFrom(SpanKind.SERVER, SpanKind.SERVER, SpanKind.CLIENT, SpanKind.INTERNAL),
      there: fc.boolean()
    }),
    { minLength: 2, maxLength: 30 }
  )
  .map((list) => {
    const made: SpanShape[] = [];
    for (const [i, { up, from, end, kind, there }] of list.entries()) {
      const parent = i === 0 ? undefined : made[Math.max(0, i - up)];
      const begin = (parent?.from ?? 0) + from;
      made.push({
        id: `n${i}`,
        parent: parent?.id,
        from: begin,
        to: Math.max(begin, (parent?.to ?? 900) + end),
        kind: i === 0 ? SpanKind.SERVER : kind,
        resource: there ? resource('tides', 'quay-3', 9) : undefined
      });
    }
    return made;
  });

describe('requests inside requests', () => {
  it.each([
    ['any trace', anySpans, 1000],
    ['chains that outlast each other', overlapping, 5000]
  ])(
    'have the ledger that walking each of them whole gives, in %s',
    { timeout: 60_000 },
    (_, shapesOf, runs) => {
      fc.assert(
        fc.property(shapesOf, (shapes) => {
          const trace = accountTrace(buildTree(shapes.map(span)));
          const { tree, innermost } = trace;
          for (const request of trace.requests) {
            const whole = emptyLedger();
            for (const { account, from, to } of request.stretches) whole[account] += to - from;
            expect(request.ledger).toEqual(whole);
            expect(request.ownStretches).toEqual(
              request.stretches.filter(({ node }) => innermost[node] === request.node)
            );
            const below = subtree(tree, request.node);
            expect(request.spanCount).toBe(below.length);
            expect(request.callCount).toBe(below.filter((node) => tree.nodes[node].call).length);
            expect(request.ownNodes).toEqual(below.filter((node) => innermost[node] === request.node));
            const within = request.within;
            const own = request.ownWithin;
            for (const node of request.ownNodes) expect(own(node)).toBe(within[node]);
          }
        }),
        { numRuns: runs }
      );
    }
  );

  it('20,000 deep are accounted for, with parts and findings, in seconds', { timeout: 20_000 }, () => {
    const trace = accountTrace(buildTree(chain(20_000, 0)));
    expect(trace.requests).toHaveLength(20_000);
    let exclusive = 0;
    for (const request of trace.requests) {
      expect(Object.values(request.ledger).reduce((sum, ns) => sum + ns, 0)).toBe(request.durationNs);
      expect(requestParts(trace, request).reduce((sum, { bookedNs }) => sum + bookedNs, 0)).toBe(
        request.durationNs
      );
      findInRequest(trace, request);
      exclusive += request.exclusiveNs;
    }
    expect(exclusive).toBe(trace.requests[0].durationNs);
    expect(trace.requests[0].spanCount).toBe(20_000);
  });

  it('20,000 deep that all outlast the one around them are too', { timeout: 20_000 }, () => {
    const { requests } = accountTrace(buildTree(chain(20_000, 1)));
    expect(requests).toHaveLength(20_000);
    for (const { ledger, durationNs } of requests)
      expect(Object.values(ledger).reduce((sum, ns) => sum + ns, 0)).toBe(durationNs);
  });
});
