import { describe, expect, it } from 'vitest';
import { query, resource, span, traceOf } from '../testing/spans';
import { formatShare } from '../text/format';
import { SpanKind, type Span } from '../trace/span';
import type { Finding } from './finding';
import { findBelow, findInRequest } from './request-findings';

const root = (to = 300): Span => span({ id: 'r', kind: SpanKind.SERVER, from: 0, to });
const find = (...spans: Span[]): Finding[] => {
  const trace = traceOf(spans);
  return findInRequest(trace, trace.requests[0]);
};
const rules = (...spans: Span[]): string[] => find(...spans).map(({ rule }) => rule);
/** The finding of one rule. */
const one = (rule: string, ...spans: Span[]): Finding =>
  find(...spans).find((finding) => finding.rule === rule)!;
const LINE = 'select * from line where call = ?';
const feeder = query('feed', 'r', 0, 5, 'select id from call', 'x');
const loop = (count: number, parameter: (i: number) => string | undefined, step = 10, length = 8): Span[] =>
  Array.from({ length: count }, (_, i) =>
    query(`q${i}`, 'r', 10 + i * step, 10 + i * step + length, LINE, parameter(i))
  );

describe('query-per-row', () => {
  it('finds like queries one after another, with the query that fed them and the saving of asking once', () => {
    const [finding] = find(root(), feeder, ...loop(20, String));
    expect(finding.rule).toBe('query-per-row');
    expect(finding.figures).toMatchObject({
      calls: 20,
      distinct: 20,
      totalNs: 160e6,
      fedBy: 'select id from call'
    });
    expect(finding.evidence.origin).toBe('berths/plan.ts:88');
    // (n − 1) × the fastest, and total − the median: both 19 × 8 ms here.
    expect(finding.saving).toEqual({ lowNs: 152e6, highNs: 152e6 });
    expect(finding.severity).toBe('high');
  });

  it('says so where it is not known whether the values differ', () => {
    const finding = one('query-per-row', root(), ...loop(6, () => undefined));
    expect(finding.figures.distinct).toBeNull();
    expect(finding.sentence).toContain('not recorded');
  });

  it('is silent below five calls, and for calls reached by different ways', () => {
    expect(rules(root(), ...loop(4, String))).not.toContain('query-per-row');
    const apart = Array.from({ length: 6 }, (_, i) => [
      span({ id: `p${i}`, parent: 'r', name: `step ${'abcdef'[i]}`, from: i * 20, to: i * 20 + 10 }),
      query(`q${i}`, `p${i}`, i * 20, i * 20 + 8, LINE, String(i))
    ]).flat();
    expect(rules(root(), ...apart)).not.toContain('query-per-row');
  });

  it('finds calls side by side, says so, and promises no more than they cost together', () => {
    const finding = one('query-per-row', root(), ...loop(10, String, 0.1, 50));
    expect(finding.sentence).toContain('all side by side');
    expect(finding.remedy).toContain('In parallel');
    expect(finding.saving!.highNs).toBeLessThan(60e6);
  });

  it('finds each query under a span of its own, distinguished by a number', () => {
    const apart = Array.from({ length: 6 }, (_, i) => [
      span({ id: `p${i}`, parent: 'r', from: i * 20, to: i * 20 + 10 }),
      query(`q${i}`, `p${i}`, i * 20, i * 20 + 8, LINE, String(i))
    ]).flat();
    expect(one('query-per-row', root(), ...apart).figures).toMatchObject({ calls: 6, atOnce: 1 });
  });

  it('bears starts rounded to whole milliseconds', () => {
    const rounded = Array.from({ length: 12 }, (_, i) =>
      query(`q${i}`, 'r', Math.floor(10 + i * 4.7), Math.floor(10 + i * 4.7) + 4.6, LINE, String(i))
    );
    expect(rules(root(), ...rounded)).toContain('query-per-row');
  });
});

describe('row-by-row-writes', () => {
  it('tells a loop that writes from one that reads', () => {
    const writes = Array.from({ length: 8 }, (_, i) =>
      query(`w${i}`, 'r', i * 10, i * 10 + 8, 'insert into line values (?)', String(i))
    );
    expect(rules(root(90), ...writes)).toEqual(['row-by-row-writes']);
    expect(rules(root(), ...loop(8, String))).not.toContain('row-by-row-writes');
  });
});

describe('same-call-again', () => {
  it('finds identical literals and keeps the first answer', () => {
    const finding = one('same-call-again', root(), ...loop(6, () => 'same'));
    expect(finding.figures).toMatchObject({ calls: 6, repeats: 5 });
    expect(finding.saving).toEqual({ lowNs: 40e6, highNs: 40e6 });
  });

  it('is silent for two, for differing literals, for writes and for unknown literals', () => {
    expect(rules(root(40), ...loop(2, () => 'same'))).toEqual([]);
    expect(rules(root(), ...loop(6, String))).not.toContain('same-call-again');
    expect(rules(root(), ...loop(6, () => undefined))).not.toContain('same-call-again');
    const writes = Array.from({ length: 4 }, (_, i) =>
      query(`w${i}`, 'r', i * 10, i * 10 + 8, 'delete from line where a = 1')
    );
    expect(rules(root(50), ...writes)).toEqual([]);
  });
});

describe('chatty-remote', () => {
  const remote = (i: number, from: number, to: number): Span =>
    span({
      id: `h${i}`,
      parent: 'r',
      kind: SpanKind.CLIENT,
      from,
      to,
      attributes: { 'http.request.method': 'GET', 'url.full': `http://tides/window/${i}` }
    });

  it('finds a remote call for every item', () => {
    const [finding] = find(root(), ...Array.from({ length: 12 }, (_, i) => remote(i, i * 20, i * 20 + 15)));
    expect(finding.rule).toBe('chatty-remote');
    expect(finding.subject).toBe('GET tides/window/:id');
  });

  it('says of calls side by side that they are', () => {
    const beside = Array.from({ length: 12 }, (_, i) => remote(i, i, 200 + i));
    expect(one('chatty-remote', root(), ...beside).sentence).toContain('all side by side');
  });
});

describe('one-slow-call', () => {
  it('finds one call that is at least 60 % of the request', () => {
    const [finding] = find(root(), query('q', 'r', 10, 250, LINE, 'x'));
    expect(finding).toMatchObject({ rule: 'one-slow-call', saving: { lowNs: 0, highNs: 240e6 } });
  });

  it('is silent below that, in a short request, and where the called side took the time', () => {
    expect(rules(root(), query('q', 'r', 10, 150, LINE, 'x'))).not.toContain('one-slow-call');
    expect(rules(root(9), query('q', 'r', 0, 9, LINE, 'x'))).not.toContain('one-slow-call');
    const passedOn = [
      span({
        id: 'c',
        parent: 'r',
        kind: SpanKind.CLIENT,
        from: 1,
        to: 299,
        attributes: { 'http.request.method': 'GET', 'url.full': 'http://b/x' }
      }),
      span({ id: 's', parent: 'c', kind: SpanKind.SERVER, from: 2, to: 298, resource: resource('b', 'h', 2) })
    ];
    expect(rules(root(), ...passedOn)).not.toContain('one-slow-call');
  });
});

describe('blind-stretch', () => {
  it('finds time that nothing explains, and where it lies', () => {
    const [finding] = find(root(), span({ id: 'rank', parent: 'r', from: 100, to: 290 }));
    expect(finding).toMatchObject({
      rule: 'blind-stretch',
      subject: 'rank',
      figures: { lengthNs: 190e6 },
      evidence: { fromNs: 100e6, toNs: 290e6 }
    });
  });

  it('is silent where children explain the time', () => {
    expect(rules(root(), ...loop(25, String, 11, 11))).not.toContain('blind-stretch');
  });
});

describe('findBelow', () => {
  it('weighs the findings of nested requests against the request looked at', () => {
    const inner = span({
      id: 's',
      parent: 'c',
      kind: SpanKind.SERVER,
      from: 0,
      to: 120,
      resource: resource('b', 'h', 2)
    });
    const outer = [
      root(2000),
      span({ id: 'c', parent: 'r', kind: SpanKind.CLIENT, from: 0, to: 120 }),
      inner
    ];
    const trace = traceOf([
      ...outer,
      ...Array.from({ length: 10 }, (_, i) => query(`q${i}`, 's', i * 12, i * 12 + 11, LINE, String(i)))
    ]);
    const [request] = trace.requests;
    expect(findInRequest(trace, request).map(({ rule }) => rule)).not.toContain('query-per-row');
    expect(findBelow(trace, request).find(({ rule }) => rule === 'query-per-row')).toMatchObject({
      severity: 'low'
    });
  });
  it('promises nothing where the request does not wait for the inner one', () => {
    const there = resource('b', 'h', 2);
    const at = (from: number, to: number): Finding => {
      const trace = traceOf([
        root(200),
        span({ id: 'c', parent: 'r', kind: SpanKind.CLIENT, from: 0, to: 150 }),
        span({ id: 's', parent: 'c', kind: SpanKind.SERVER, from: 0, to: 150, resource: there }),
        ...Array.from({ length: 12 }, (_, i) => query(`q${i}`, 's', i * 12, i * 12 + 11, LINE, String(i))),
        // Beside it something else that takes its time.
        span({ id: 'b', parent: 'r', from, to })
      ]);
      return findBelow(trace, trace.requests[0]).find(({ rule }) => rule === 'query-per-row')!;
    };
    // Beside it, nothing that takes long: all of it counts.
    expect(at(0, 10).costNs).toBe(132e6);
    expect(at(0, 10).saving!.highNs).toBeGreaterThan(100e6);
    // A branch of 190 ms hides it: fixed, the request would take as long.
    expect(at(0, 190)).toMatchObject({ costNs: 0, severity: 'low', saving: { lowNs: 0, highNs: 0 } });
  });
});

describe('a finding of a request inside another', () => {
  it('is stated for the one that is looked at: its cost, its share and its saving', () => {
    const there = resource('tides', 'quay-3', 9);
    const inner = Array.from({ length: 11 }, (_, i) => ({
      ...query(`q${i}`, 's', 12 + i * 3, 15 + i * 3, LINE, String(i)),
      resource: there
    }));
    const trace = traceOf([
      root(),
      span({ id: 'c', parent: 'r', kind: SpanKind.CLIENT, from: 10, to: 50 }),
      span({ id: 's', parent: 'c', kind: SpanKind.SERVER, from: 11, to: 47, resource: there }),
      ...inner
    ]);
    const [outside, inside] = [trace.requests[0], trace.requests[1]];
    const of = (finding: Finding | undefined): unknown[] => [
      finding!.costNs,
      finding!.sentence.match(/\d+\s%/)?.[0]
    ];
    const byRule = ({ rule }: Finding): boolean => rule === 'query-per-row';
    const share = (ns: number, request: typeof outside): string => formatShare(ns / request.durationNs);
    expect(of(findInRequest(trace, inside).find(byRule))).toEqual([33e6, share(33e6, inside)]);
    expect(of(findBelow(trace, outside).find(byRule))).toEqual([33e6, share(33e6, outside)]);
    expect(share(33e6, inside)).not.toBe(share(33e6, outside));
  });
});
