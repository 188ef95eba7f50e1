import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { linearFit } from '../stats/linear-fit';
import { addBucket, bucketOf, emptySketch, type Sketch } from '../stats/sketch';
import { query, span, traceOf } from '../testing/spans';
import { SpanKind, StatusCode, type AttributeValue, type Span } from '../trace/span';
import type { Finding } from './finding';
import { findInRequest } from './request-findings';
import { REQUEST_RULES } from './request-rules';
import { coldStart } from './cold-start';
import { growthSentence } from './loop-growth';
import { oneHost } from './one-host';
import type { Cohort, FirstRequest, ManyContext } from './over-many';
import { findOverMany } from './over-many-findings';
import { sinceRelease } from './since-release';

const root = (to: number): Span => span({ id: 'r', kind: SpanKind.SERVER, from: 0, to });
const find = (rule: string, ...spans: Span[]): Finding | undefined => {
  const trace = traceOf(spans);
  return findInRequest(trace, trace.requests[0]).find((finding) => finding.rule === rule);
};
const get = (id: string, from: number, to: number, url: string, failed = false): Span =>
  span({
    id,
    parent: 'r',
    kind: SpanKind.CLIENT,
    from,
    to,
    status: failed ? StatusCode.ERROR : 0,
    attributes: { 'http.request.method': 'GET', 'url.full': `http://${url}` }
  });

describe('could-run-together', () => {
  it('finds different calls in a row, with what running them side by side saves', () => {
    const finding = find(
      'could-run-together',
      root(100),
      get('a', 5, 35, 'tides/a'),
      get('b', 36, 76, 'pilots/b'),
      query('c', 'r', 77, 97, 'select 1 from t')
    )!;
    expect(finding.figures).toMatchObject({ calls: 3, totalNs: 90e6, slowestNs: 40e6 });
    expect(finding.saving).toEqual({ lowNs: 20e6, highNs: 50e6 });
    expect(finding.sentence).toContain('does not show');
    expect(finding.edit?.size).toBe(2);
  });
  it('is silent where there is work in between, for parallel calls, like calls and writes', () => {
    expect(
      find('could-run-together', root(100), get('a', 0, 40, 'x/a'), get('b', 50, 90, 'x/b'))
    ).toBeUndefined();
    expect(
      find('could-run-together', root(100), get('a', 0, 40, 'x/a'), get('b', 5, 90, 'x/b'))
    ).toBeUndefined();
    expect(
      find('could-run-together', root(100), get('a', 0, 40, 'x/a'), get('b', 41, 90, 'x/a'))
    ).toBeUndefined();
    expect(
      find('could-run-together', root(100), get('a', 0, 40, 'x/a'), query('w', 'r', 41, 90, 'delete from t'))
    ).toBeUndefined();
  });
});

describe('too-many-rows', () => {
  const read = (sql: string, rows: number): Span =>
    span({
      id: 'q',
      parent: 'r',
      kind: SpanKind.CLIENT,
      from: 10,
      to: 60,
      attributes: { 'db.system.name': 'postgresql', 'db.query.text': sql, 'db.response.returned_rows': rows }
    });
  it('finds a large answer without a limit of its own', () => {
    expect(find('too-many-rows', root(100), read('select * from line', 40_000))).toMatchObject({
      costNs: 50e6,
      figures: { rows: 40_000 }
    });
  });
  it.each([
    ['select * from line', 1000],
    ['select * from line limit 50000', 40_000],
    ['select * from line fetch first 9000 rows only', 9000]
  ])('is silent for %s with %d rows', (sql, rows) =>
    expect(find('too-many-rows', root(100), read(sql, rows))).toBeUndefined()
  );
});

describe('round-timeout', () => {
  const failed = (one: Span): Span => ({ ...one, status: 2 });
  it('finds a call that failed just after a round limit', () => {
    expect(find('round-timeout', root(3100), failed(get('a', 20, 3040, 'pilots/x')))).toMatchObject({
      title: 'Likely timeout of 3 s',
      figures: { limitNs: 3e9, calls: 1, failed: 1 }
    });
  });
  it('finds many that end there though they succeed, and is silent for one', () => {
    const at = (from: number): Span => get(`a${from}`, from, from + 1010, 'pilots/x');
    expect(find('round-timeout', root(5000), at(0), at(1100), at(2200))).toMatchObject({
      figures: { limitNs: 1e9, calls: 3, failed: 0 }
    });
    expect(find('round-timeout', root(5000), at(0))).toBeUndefined();
  });
  it('is silent where the called side worked that long', () => {
    const there = { ...root(1).resource, key: 'pilots', service: 'pilots' };
    const served = span({ id: 's', parent: 'a', kind: SpanKind.SERVER, from: 30, to: 5000, resource: there });
    expect(find('round-timeout', root(5100), failed(get('a', 20, 5040, 'pilots/x')), served)).toBeUndefined();
  });
  it('is silent before a limit and long after it', () => {
    expect(find('round-timeout', root(5000), get('a', 0, 2990, 'x/x'))).toBeUndefined();
    expect(find('round-timeout', root(5000), get('a', 0, 3100, 'x/x'))).toBeUndefined();
  });
});

describe('retry-storm and failed-but-waited', () => {
  const attempts = (count: number, last = false): Span[] =>
    Array.from({ length: count }, (_, i) =>
      get(`a${i}`, i * 100, i * 100 + 90, 'pilots/x', i < count - 1 || !last)
    );
  it('finds three attempts and more', () => {
    const finding = find('retry-storm', root(500), ...attempts(4, true))!;
    expect(finding.figures).toMatchObject({ attempts: 4, gaveUp: 0, bookedNs: 270e6 });
    expect(finding.saving).toEqual({ lowNs: 0, highNs: 270e6 });
    expect(find('retry-storm', root(500), ...attempts(2))).toBeUndefined();
  });
  it('tells a wait for a failure, but not the failures of a storm again', () => {
    expect(find('failed-but-waited', root(500), get('a', 0, 200, 'pilots/x', true))).toMatchObject({
      costNs: 200e6
    });
    expect(find('failed-but-waited', root(500), ...attempts(4))).toBeUndefined();
    expect(find('failed-but-waited', root(500), get('a', 0, 20, 'pilots/x', true))).toBeUndefined();
    expect(find('failed-but-waited', root(500), get('a', 0, 200, 'pilots/x'))).toBeUndefined();
  });
});

const sketchOf = (ms: number, count: number): Sketch => {
  const sketch = emptySketch();
  for (let i = 0; i < count; i++) addBucket(sketch, bucketOf(ms * 1000 * (0.9 + (0.2 * i) / count)), 1);
  return sketch;
};
const cohort = (host: string, release: string, ms: number, count = 60): Cohort => ({
  service: 'tides',
  endpoint: 'GET /window',
  host,
  release,
  releaseFirstUs: Number(release) * 1e6,
  count,
  totalNs: ms * 1e6 * count,
  exclusiveNs: ms * 1e6 * count,
  sketch: sketchOf(ms, count)
});

const many = (some: Partial<ManyContext>): ManyContext => ({
  cohorts: [],
  firsts: [],
  medianNs: () => 0,
  allNs: 1e9,
  ...some
});

describe('one-host', () => {
  it('finds the planted host, with what it costs', () => {
    const found = oneHost.find(
      many({ cohorts: [cohort('a', '1', 100), cohort('b', '1', 100), cohort('c', '1', 250)], allNs: 24e9 })
    );
    expect(found).toMatchObject([{ subject: 'c', severity: 'high', costNs: 9e9, requests: 60 }]);
    expect(found[0].sentence).toContain('2.5 times');
  });
  it('takes no release for a host, no small difference, and nothing of few requests', () => {
    expect(
      oneHost.find(many({ cohorts: [cohort('a', '1', 100), cohort('b', '2', 250)], allNs: 1e9 }))
    ).toEqual([]);
    expect(
      oneHost.find(many({ cohorts: [cohort('a', '1', 100), cohort('b', '1', 130)], allNs: 1e9 }))
    ).toEqual([]);
    expect(
      oneHost.find(many({ cohorts: [cohort('a', '1', 100), cohort('b', '1', 250, 10)], allNs: 1e9 }))
    ).toEqual([]);
  });
});

describe('one host under several releases', () => {
  it('is one finding with the sums of both, stated for the release in which it costs most', () => {
    const found = oneHost.find(
      many({
        cohorts: [
          ...[cohort('a', '1', 100), cohort('b', '1', 100), cohort('c', '1', 250)],
          ...[cohort('a', '2', 50), cohort('b', '2', 50), cohort('c', '2', 100)]
        ],
        allNs: 24e9
      })
    );
    expect(found).toMatchObject([
      { subject: 'c', requests: 120, costNs: 12e9, figures: { release: '1', releases: 2 } }
    ]);
    expect(found[0].sentence).toContain(
      'under release 1. By a rank test this is not down to chance. It is slower under 2 releases.'
    );
  });
});

describe('findings over many requests', () => {
  it('have no two of one rule, endpoint and subject: they are distinguished and set aside by those', () => {
    const shape = fc.record({
      host: fc.constantFrom('a', 'b', 'c'),
      release: fc.constantFrom('1', '2', '3'),
      ms: fc.integer({ min: 20, max: 400 }),
      endpoint: fc.constantFrom('GET /window', 'GET /board')
    });
    fc.assert(
      fc.property(fc.array(shape, { maxLength: 14 }), (list) => {
        const cohorts = list.map(({ host, release, ms, endpoint }) => ({
          ...cohort(host, release, ms),
          endpoint
        }));
        const firsts = list.map(({ host, ms, endpoint }) => ({
          ...{ service: 'tides', endpoint, host, release: '1', traceId: 't', spanId: 's' },
          ...{ durationNs: ms * 1e7, exclusiveNs: ms * 1e7 }
        }));
        const found = [...findOverMany(many({ cohorts, firsts, medianNs: () => 50e6, allNs: 24e9 }))];
        const keys = found.map((one) => JSON.stringify([one.rule, one.service, one.endpoint, one.subject]));
        expect(new Set(keys).size).toBe(keys.length);
        for (const { costNs, sentence } of found) {
          expect(costNs).toBeGreaterThan(0);
          expect(sentence).not.toMatch(/NaN|undefined/);
        }
      }),
      { numRuns: 100 }
    );
  });
});

describe('since-release', () => {
  it('finds the release with which an endpoint became slower, and no other', () => {
    const found = sinceRelease.find(
      many({ cohorts: [cohort('a', '1', 100), cohort('a', '2', 101), cohort('a', '3', 200)], allNs: 24e9 })
    );
    expect(found.map(({ subject }) => subject)).toEqual(['3']);
    expect(found[0].figures).toMatchObject({ before: '2' });
  });
});

describe('cold-start', () => {
  const first = (durationMs: number, release = '1'): FirstRequest => ({
    service: 'tides',
    endpoint: 'GET /window',
    host: 'a',
    release,
    durationNs: durationMs * 1e6,
    exclusiveNs: durationMs * 1e6,
    traceId: 't',
    spanId: 's'
  });
  it('finds first requests many times the median', () => {
    expect(
      coldStart.find(many({ firsts: [first(2000), first(60)], medianNs: () => 50e6, allNs: 1e9 }))
    ).toMatchObject([{ requests: 1, costNs: 1950e6, example: { traceId: 't' } }]);
  });
  it('compares within the release: one that is slower altogether starts no slower', () => {
    const medians: Record<string, number> = { '1': 50e6, '2': 1900e6 };
    const found = coldStart.find(
      many({ firsts: [first(2000, '2'), first(60)], medianNs: ({ release }) => medians[release], allNs: 1e9 })
    );
    expect(found).toEqual([]);
  });
  it('is silent where they are ordinary', () =>
    expect(coldStart.find(many({ firsts: [first(90)], medianNs: () => 50e6, allNs: 1e9 }))).toEqual([]));
});

describe('growthSentence', () => {
  const over = (calls: (rows: number) => number, count = 20): string => {
    const rows = Array.from({ length: count }, (_, i) => 5 + i * 3);
    return growthSentence(linearFit(rows, rows.map(calls)), new Set(rows).size);
  };
  it('says one more call for each row', () =>
    expect(over((rows) => rows)).toContain('one more call for each row'));
  it('gives another slope as it is', () => expect(over((rows) => 2 * rows + 1)).toContain('2.00 more calls'));
  it('says so where the calls do not follow the rows', () =>
    expect(over((rows) => (rows * 7919) % 13)).toContain('do not follow'));
  it('is silent with few requests', () => expect(over((rows) => rows, 5)).toBe(''));
});

describe('the text of the rules', () => {
  it('has every rule once, with thresholds and reasons', () => {
    expect(new Set(REQUEST_RULES.map(({ rule }) => rule)).size).toBe(18);
    for (const { thresholds, looksFor, why, doThis } of REQUEST_RULES) {
      expect(thresholds.every(({ name, value, why: reason }) => name && value && reason)).toBe(true);
      expect([looksFor, why, ...doThis].every((text) => text.length > 10)).toBe(true);
    }
  });
});

it('names attributes like object internals as data', () => {
  const odd: Record<string, AttributeValue> = JSON.parse('{"__proto__": "x", "constructor": "y"}');
  const trace = traceOf([span({ id: 'r', kind: SpanKind.SERVER, from: 0, to: 10, attributes: odd })]);
  expect(findInRequest(trace, trace.requests[0])).toEqual([]);
});
