import { describe, expect, it } from 'vitest';
import type { Change } from '@tromix/core/stats/rank-test';
import type { BreakdownRow, EndpointPage, SplitRow } from '$lib/server/queries/endpoint';
import { plainText } from '@tromix/core/text/words';
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
      /became slower.*2\.00 times.*as many requests as before/
    ],
    ['as long, more often', page(30, 10, change('no clear change')), /not clearly slower.*3\.0 times/],
    ['slower and more often', page(20, 10, change('slower', 1.5)), /slower.*2\.0 times as many requests/],
    ['faster, less often', page(5, 10, change('faster', 0.5)), /faster.*50.%.*only 50.%/],
    ['neither', page(11, 10, change('no clear change')), /no clear change/],
    ['too few to say', page(11, 10, change('too few', NaN)), /Too few requests.*to say/]
  ])('%s', (_, given, words) => expect(plainText(slowerOrOftener(given))).toMatch(words));
});

describe('mostOf', () => {
  it('tells one long call from very many short ones that take as long', () => {
    expect(plainText(mostOf([part({})]))).toContain('about one call of');
    const many = plainText(mostOf([part({ callsPerRequest: 250, nsPerCall: 1e6, nsPerRequest: 250e6 })]));
    expect(many).toContain('250 calls');
    expect(many).toContain('None is slow by itself; there are many');
    expect(plainText(mostOf([part({ callsPerRequest: 2.5 })]))).toContain('2.5 calls');
  });
  it('names own work by its span, and is silent where nothing stands out', () => {
    expect(plainText(mostOf([part({ kind: 'ownCode', name: 'weigh' })]))).toMatch(
      /50.% of an average request.*weigh/
    );
    expect(mostOf([part({ share: 0.1 })])).toEqual([]);
    expect(mostOf([])).toEqual([]);
  });
});

describe('endpointReading', () => {
  it('says that there are no requests instead of dividing by nothing', () => {
    expect(endpointReading({ ...page(0, 0, change('too few')), count: 0 })).toEqual([
      ['No requests to this endpoint in this time range.']
    ]);
  });
  it('names the host that stands out, not the only one there is', () => {
    const host = (name: string, one: Change): SplitRow => ({ name, change: one }) as SplitRow;
    const odd = host('quay-3', change('slower', 2.4));
    const given = page(10, 10, change('no clear change'));
    expect(
      plainText(endpointReading({ ...given, hosts: [host('quay-1', change('faster', 0.4)), odd] }).at(-1)!)
    ).toContain('quay-3 stands out: its median is 2.4 times');
    expect(
      endpointReading({ ...given, hosts: [odd] })
        .map(plainText)
        .join(' ')
    ).not.toContain('stands out');
  });
});
