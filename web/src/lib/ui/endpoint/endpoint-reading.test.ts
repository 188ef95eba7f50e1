import { describe, expect, it } from 'vitest';
import type { Change } from '@tromix/core/stats/rank-test';
import type { BreakdownRow, EndpointPage, SplitRow } from '$lib/server/queries/endpoint';
import { endpointReading, mostOf, slowerOrOftener } from './endpoint-reading';

const change = (verdict: Change['verdict'], ratio = 1): Change => ({ verdict, ratio, p: 1e-6 });
const page = (now: number, before: number, verdict: Change): EndpointPage =>
  ({
    count: 400,
    p50Ns: 100e6,
    p95Ns: 300e6,
    perMinute: now,
    before: { count: 300, perMinute: before, p50Ns: 1, change: verdict },
    breakdown: [],
    hosts: []
  }) as unknown as EndpointPage;
const part = (more: Partial<BreakdownRow>): BreakdownRow => ({
  groupId: 1,
  kind: 'database',
  name: 'select * from line where id = ?',
  origin: '',
  callsPerRequest: 1,
  nsPerRequest: 100e6,
  bookedPerRequest: 100e6,
  share: 0.5,
  nsPerCall: 100e6,
  p95Ns: 100e6,
  calls: 1,
  requests: 1,
  failed: 0,
  mostCalls: 1,
  ...more
});

describe('slowerOrOftener', () => {
  it.each([
    [
      'slower, as often',
      page(10, 10, change('slower', 2)),
      /became \*slower\*.*2\.00 times.*as often as before/
    ],
    ['as long, more often', page(30, 10, change('no clear change')), /not clearly slower.*3\.0 times/],
    ['slower and more often', page(20, 10, change('slower', 1.5)), /slower.*also asked \*2\.0 times/],
    ['faster, less often', page(5, 10, change('faster', 0.5)), /faster.*50.%.*only \*50.%\*/],
    ['neither', page(11, 10, change('no clear change')), /\*no clear change\*/],
    ['too few to say', page(11, 10, change('too few', NaN)), /too few requests to say/]
  ])('%s', (_, given, words) => expect(slowerOrOftener(given)).toMatch(words));
});

describe('mostOf', () => {
  it('tells one long call from very many short ones that take as long', () => {
    expect(mostOf([part({})])).toContain('about one call of');
    const many = mostOf([part({ callsPerRequest: 250, nsPerCall: 1e6, nsPerRequest: 250e6 })]);
    expect(many).toContain('*250 calls*');
    expect(many).toContain('no single one is slow, there are many');
    expect(mostOf([part({ callsPerRequest: 2.5 })])).toContain('2.5 calls');
  });
  it('names own work by its span, and is silent where nothing stands out', () => {
    expect(mostOf([part({ kind: 'ownCode', name: 'weigh' })])).toMatch(
      /\*50.%\* of an average request.*\*weigh\*/
    );
    expect(mostOf([part({ share: 0.1 })])).toBe('');
    expect(mostOf([])).toBe('');
  });
});

describe('endpointReading', () => {
  it('says that nobody asked instead of dividing by nothing', () => {
    expect(endpointReading({ ...page(0, 0, change('too few')), count: 0 })).toEqual([
      'Nobody asked this endpoint in this window.'
    ]);
  });
  it('names the host that stands out, not the only one there is', () => {
    const host = (name: string, one: Change): SplitRow => ({ name, change: one }) as SplitRow;
    const odd = host('quay-3', change('slower', 2.4));
    const given = page(10, 10, change('no clear change'));
    expect(
      endpointReading({ ...given, hosts: [host('quay-1', change('faster', 0.4)), odd] }).at(-1)
    ).toContain('*quay-3* stands out: its median is *2.4 times*');
    expect(endpointReading({ ...given, hosts: [odd] }).join(' ')).not.toContain('stands out');
  });
});
