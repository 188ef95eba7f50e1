import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { Draws } from '../stats/draws';
import { drawOne, fill } from './draw';
import { maskedPlan, missingParts } from './masked-plan';
import { readPlan, stepName, type LoadPlan, type LoadPlanInput } from './plan';
import { arrivalAt, plannedRequests, userStart } from './schedule';
import { isRunKey, traceOf, traceparentOf } from './trace-ids';

const planOf = (input: Partial<LoadPlanInput> = {}): LoadPlan => {
  const read = readPlan({ steps: [{ url: 'http://127.0.0.1:3000/board' }], ...input });
  if (!read.ok) throw new Error(read.message);
  return read.plan;
};

describe('a plan', () => {
  it('needs an address alone', () =>
    expect(planOf()).toMatchObject({
      users: 1,
      loops: 1,
      rampUpSeconds: 0,
      rate: 0,
      steps: [{ method: 'GET' }]
    }));

  it.each<[object, string]>([
    [{ steps: [] }, 'steps: expected at least one step'],
    [{ steps: [{ url: 'board' }] }, 'steps 1 url: expected an address such as http://127.0.0.1:3000/board'],
    [{ steps: [{ url: 'ftp://127.0.0.1/' }] }, 'steps 1 url: expected an address'],
    [{ steps: [{ url: 'http://a:b@127.0.0.1/' }] }, 'without a user and password'],
    [
      { steps: [{ url: 'http://127.0.0.1', method: 'GET /x HTTP/1.1\r\n' }] },
      'steps 1 method: expected a method'
    ],
    [
      { steps: [{ url: 'http://127.0.0.1', headers: [['a b', 'c']] }] },
      'steps 1 headers 1 1: expected the name'
    ],
    [{ steps: [{ url: 'http://127.0.0.1', headers: [['a', 'b\r\nc: d']] }] }, 'on one line'],
    [
      { steps: [{ url: 'http://127.0.0.1', headers: [['Traceparent', 'x']] }] },
      'Traceparent is set by the driver'
    ],
    [{ steps: [{ url: 'http://127.0.0.1', expect: [99] }] }, 'expected at least 100'],
    [{ users: 0 }, 'users: expected at least 1'],
    [{ users: 1.5 }, 'users: expected an integer'],
    [{ users: 1e9 }, 'users: expected at most 2000'],
    [{ users: Infinity }, 'users: '],
    [{ users: 5, rate: 5 }, 'expected users or a rate, not both'],
    [{ loops: 0 }, 'a run must end by itself'],
    [{ rampUpSeconds: -1 }, 'rampUpSeconds: expected at least 0'],
    [{ order: 'any' }, 'order: ']
  ])('%j is refused: %s', (input, words) => {
    const read = readPlan({ steps: [{ url: 'http://127.0.0.1:3000/board' }], ...input });
    expect(read.ok ? '' : read.message).toContain(words);
  });

  it('is named by its step, with the ranges in its path', () =>
    expect(stepName(planOf({ steps: [{ url: 'http://127.0.0.1/calls/{1..60}/berth?x=1' }] }).steps[0])).toBe(
      'GET /calls/{1..60}/berth'
    ));
});

describe('when requests are sent', () => {
  // Common practice: 10 users with a ramp-up of 10 s start one every second; 10 users × 10 loops = 100 samples.
  it('users join evenly over the ramp-up', () => {
    const plan = planOf({ users: 10, rampUpSeconds: 10, loops: 10 });
    expect(Array.from({ length: 10 }, (_, user) => userStart(user, plan))).toEqual([
      0, 1, 2, 3, 4, 5, 6, 7, 8, 9
    ]);
    expect(plannedRequests(plan)).toBe(100);
  });

  it('steps sent at once count each time', () => {
    const steps = [{ url: 'http://127.0.0.1/a' }, { url: 'http://127.0.0.1/b', together: 3 }];
    expect(plannedRequests(planOf({ steps, users: 2, loops: 5 }))).toBe(40);
    expect(plannedRequests(planOf({ steps, users: 2, loops: 5, order: 'one' }))).toBe(Infinity);
    expect(plannedRequests(planOf({ loops: 0, seconds: 9 }))).toBe(Infinity);
  });

  it('arrivals rise to their rate: half as many in the ramp-up as at the full rate', () => {
    const plan = planOf({ rate: 10, rampUpSeconds: 4, loops: 0, seconds: 20 });
    const times = Array.from({ length: 60 }, (_, n) => arrivalAt(n, plan));
    expect(times.filter((at) => at < 4).length).toBe(20);
    expect(times.filter((at) => at >= 4 && at < 6).length).toBe(20);
    for (let n = 1; n < times.length; n++) expect(times[n]).toBeGreaterThan(times[n - 1]);
    expect(arrivalAt(7, planOf({ rate: 10 }))).toBeCloseTo(0.7);
  });
});

describe('drawn numbers', () => {
  it('lie in their range, both ends included, and are the same from the same seed', () => {
    fc.assert(
      fc.property(fc.nat(), fc.nat(1000), fc.nat(1000), (seed, least, more) => {
        const text = `{${least}..${least + more}}`;
        const drawn = Number(fill(text, new Draws(seed)));
        expect(drawn).toBeGreaterThanOrEqual(least);
        expect(drawn).toBeLessThanOrEqual(least + more);
        expect(Number(fill(text, new Draws(seed)))).toBe(drawn);
      })
    );
    const draws = new Draws(7);
    expect(new Set(Array.from({ length: 200 }, () => fill('{1..3}', draws)))).toEqual(
      new Set(['1', '2', '3'])
    );
  });

  it('leave JSON and everything else alone', () => {
    const text = '{"pilot": {"a": 1}, "range": "{9..1}", "dots": ".."}';
    expect(fill(text, new Draws(1))).toBe(text);
  });

  // Outside check: frequencies against their expectation, within five standard deviations of a binomial.
  it('are drawn as often as their weights say', () => {
    const draws = new Draws(3);
    const counts = [0, 0, 0];
    for (let i = 0; i < 20_000; i++) counts[drawOne([1, 2, 7], draws)]++;
    for (const [i, share] of [0.1, 0.2, 0.7].entries())
      expect(Math.abs(counts[i] - share * 20_000)).toBeLessThan(5 * Math.sqrt(20_000 * share * (1 - share)));
  });
});

describe('traces of a run', () => {
  it('begin with its key, and differ otherwise', () => {
    const key = '00c0ffee00000001';
    const seen = new Set<string>();
    const spans = new Set<string>();
    for (let n = 0; n < 50_000; n++) {
      const { traceId, spanId } = traceOf(key, n);
      expect(traceId).toMatch(/^00c0ffee00000001[0-9a-f]{16}$/);
      expect(spanId).toMatch(/^[0-9a-f]{16}$/);
      seen.add(traceId);
      spans.add(spanId);
    }
    expect(seen.size).toBe(50_000);
    expect(spans.size).toBe(50_000);
  });

  // Outside check: W3C Trace Context, 3.2: version, trace id, parent id and flags in lower-case hexadecimal digits.
  it('are named as W3C Trace Context wants', () =>
    expect(traceparentOf(traceOf('ab'.repeat(8), 5))).toMatch(
      /^00-(?!0{32})[0-9a-f]{32}-(?!0{16})[0-9a-f]{16}-01$/
    ));

  it.each(['', '0000000000000000', 'ABCDEF0123456789', '0123', 'g123456789abcdef'])('%s is no key', (text) =>
    expect(isRunKey(text)).toBe(false)
  );
});

describe('what is kept of a plan', () => {
  const secret = planOf({
    steps: [
      {
        url: 'http://127.0.0.1/board?token=s3cret-Value-9&vessel=9100001',
        method: 'POST',
        headers: [
          ['Authorization', 'Bearer hunter2hunter2'],
          ['accept', 'text/html']
        ],
        body: '{"password":"windlass-42","pilot":7}'
      },
      { url: 'http://127.0.0.1/vessels/{1..9}' }
    ]
  });

  it('has no secrets, and says where they were', () => {
    const kept = maskedPlan(secret);
    const text = JSON.stringify(kept);
    for (const word of ['s3cret', 'hunter2', 'windlass']) expect(text).not.toContain(word);
    expect(kept.steps[0]).toMatchObject({
      url: 'http://127.0.0.1/board?token=?&vessel=9100001',
      headers: [
        ['Authorization', '?'],
        ['accept', 'text/html']
      ],
      masked: ['url', 'headers', 'body']
    });
    expect(kept.steps[1]).toEqual(secret.steps[1]);
  });

  it('is not sent again before they are given anew', () => {
    expect(missingParts(secret)).toBe('');
    expect(missingParts(maskedPlan(secret))).toBe(
      'steps 1: the address and the headers and the body held secrets, which are not kept. Give them anew.'
    );
    expect(maskedPlan(maskedPlan(secret))).toEqual(maskedPlan(secret));
  });
});
