import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { requestParts } from '../calls/parts';
import { findInRequest } from '../findings/request-findings';
import { anySpans } from '../testing/any-trace';
import { span } from '../testing/spans';
import { emptyLedger } from './account';
import { TooEntangled } from './booking';
import { accountTrace, bookedInOwn, bookedWithin, subtree } from './requests';
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

describe('requests inside requests', () => {
  it('have the ledger that walking each of them whole gives, whatever the trace', () => {
    fc.assert(
      fc.property(anySpans, (shapes) => {
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
          expect(request.callCount).toBe(below.filter((node) => tree.nodes[node].span.call).length);
          expect(request.ownNodes).toEqual(below.filter((node) => innermost[node] === request.node));
          const within = bookedWithin(tree, request.node, request.booked);
          const own = bookedInOwn(tree, request);
          for (const node of request.ownNodes) expect(own.get(node) ?? 0).toBe(within[node]);
        }
      }),
      { numRuns: 1000 }
    );
  });

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

  it('that all outlast the one around them are given up rather than walked for hours', () => {
    expect(accountTrace(buildTree(chain(2000, 1))).requests).toHaveLength(2000);
    expect(() => accountTrace(buildTree(chain(20_000, 1)))).toThrow(TooEntangled);
  });
});
