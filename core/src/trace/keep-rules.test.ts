import { describe, expect, it } from 'vitest';
import { judge, type KeepFacts, type KeepRule } from './keep-rules';

const facts = (more: Partial<KeepFacts> & { id: number }): KeepFacts => ({
  traceId: more.id.toString(16).padStart(32, '0'),
  service: 'berths',
  endpoint: 'GET /plan',
  host: 'quay-2',
  startUs: 1_700_000_000_000_000,
  durationNs: 10e6,
  failed: false,
  has: () => false,
  ...more
});
const hundred = Array.from({ length: 100 }, (_, i) => facts({ id: i + 1 }));
const kept = (rules: KeepRule[], requests: KeepFacts[]): number => judge(rules, requests).kept;

describe('judge', () => {
  it('keeps everything without a rule', () => expect(kept([], hundred)).toBe(100));

  it('keeps what any rule keeps, and counts each by itself', () => {
    const requests = [
      ...hundred,
      facts({ id: 200, durationNs: 2e9 }),
      facts({ id: 201, failed: true, durationNs: 2e9 }),
      facts({ id: 202, host: 'quay-9' }),
      facts({ id: 203, endpoint: 'GET /tides' }),
      facts({ id: 204, has: (name, value) => name === 'user.id' && value === 'ada' })
    ];
    const rules: KeepRule[] = [
      { when: 'slower', ms: 1000 },
      { when: 'failed' },
      { when: 'host', host: 'quay-9' },
      { when: 'endpoint', service: '', endpoint: 'GET /tides' },
      { when: 'attribute', name: 'user.id', value: 'ada' }
    ];
    expect(judge(rules, requests)).toMatchObject({ kept: 5, of: 105, byRule: [2, 1, 1, 1, 1] });
  });

  it('keeps a trace whole as soon as one of its requests is kept', () => {
    const both = [facts({ id: 7 }), facts({ id: 7, service: 'tides', failed: true })];
    expect(kept([{ when: 'failed' }], both)).toBe(2);
  });

  it('takes one in n by the trace id, whatever order they come in', () => {
    const rule: KeepRule[] = [{ when: 'one-in', n: 10 }];
    expect(kept(rule, hundred)).toBe(10);
    expect([...judge(rule, hundred).traces].sort()).toEqual(
      [...judge(rule, hundred.toReversed()).traces].sort()
    );
  });

  it('keeps some of each endpoint in each hour', () => {
    const HOUR = 3_600_000_000;
    const requests = [
      ...hundred,
      ...Array.from({ length: 30 }, (_, i) => facts({ id: 300 + i, endpoint: 'GET /rare' })),
      ...Array.from({ length: 30 }, (_, i) => facts({ id: 400 + i, startUs: 1_700_000_000_000_000 + HOUR }))
    ];
    expect(kept([{ when: 'each-endpoint', perHour: 4 }], requests)).toBe(12);
  });
});
