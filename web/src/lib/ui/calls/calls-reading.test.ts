import { describe, expect, it } from 'vitest';
import type { CallGroupPage } from '$lib/server/queries/calls/call-group';
import type { CallPoint } from '$lib/server/queries/calls/call-points';
import type { CallRow, CallsPage } from '$lib/server/queries/calls/calls';
import { plainText, type Words } from '@tromix/core/text/words';
import { callsReading, groupReading, oftenOrSlow } from './calls-reading';

/** A sentence with its stressed parts in brackets. */
const marked = (sentence: Words): string =>
  sentence.map((part) => (typeof part === 'string' ? part : `[${part[0]}]`)).join('');

const point = (at: number, calls: number, eachNs: number): CallPoint => ({
  at,
  requests: calls,
  calls,
  meanNs: eachNs,
  p95Ns: eachNs,
  mostCalls: 1,
  totalNs: calls * eachNs
});
/** Four bins, the latter two with other calls. */
const halves = (calls: number, eachNs: number, laterCalls: number, laterNs: number): CallPoint[] => [
  point(0, calls, eachNs),
  point(1, calls, eachNs),
  point(2, laterCalls, laterNs),
  point(3, laterCalls, laterNs)
];

describe('oftenOrSlow', () => {
  it('tells a healthy service that is asked too often from one that became slow', () => {
    expect(marked(oftenOrSlow(halves(100, 1e6, 300, 1e6), 'call'))).toContain(
      '[healthy, and called too often]'
    );
    expect(marked(oftenOrSlow(halves(100, 1e6, 100, 5e6), 'call'))).toContain('[became slow]');
    const both = marked(oftenOrSlow(halves(100, 1e6, 200, 2e6), 'call'));
    expect(both).toContain('[2.0 times] as often');
    expect(both).toContain('[2.0 times] as long');
  });
  it('is silent about what stayed as it was, and about too little to compare', () => {
    expect(oftenOrSlow(halves(100, 1e6, 110, 1.1e6), 'call')).toEqual([]);
    expect(oftenOrSlow(halves(100, 1e6, 0, 0), 'call')).toEqual([]);
    expect(oftenOrSlow([point(0, 1, 1), point(1, 9, 9)], 'call')).toEqual([]);
  });
});

describe('callsReading', () => {
  const row = (more: Partial<CallRow>): CallRow =>
    ({
      calls: 100,
      totalNs: 2e9,
      share: 0.5,
      mostCalls: 3,
      opens: null,
      outgoing: null,
      ...more
    }) as CallRow;
  const page = (rows: CallRow[]): CallsPage =>
    ({ rows, all: { calls: 200, totalNs: 4e9, groups: rows.length } }) as CallsPage;
  it('names the share of the first and the most calls in one request', () => {
    const [first, chatty] = callsReading(page([row({}), row({ mostCalls: 250 })]), 'call group').map(marked);
    expect(first).toMatch(/\[200 calls\].*One group takes \[50.%\]/);
    expect(chatty).toContain('[250 calls]');
    expect(callsReading(page([row({})]), 'service')).toHaveLength(1);
    expect(callsReading(page([]), 'service')).toEqual([['No calls in this scope.']]);
  });
});

describe('what calls of one kind tell', () => {
  const page = (row: Partial<CallRow>): CallsPage =>
    ({
      rows: [{ calls: 100, totalNs: 2e9, share: 1, mostCalls: 3, opens: null, outgoing: null, ...row }],
      all: { calls: 100, totalNs: 2e9, groups: 1 }
    }) as CallsPage;
  const said = (row: Partial<CallRow>): string =>
    callsReading(page(row), 'file').map(marked).join(' ').replace(/\s/g, ' ');
  it('of files how often they were opened, and what was moved as far as it is told', () => {
    expect(said({ opens: 80, bytesRead: 4e6, bytesWritten: 0 })).toMatch(
      /opened \[80 times\]; \[4.* MB\] were read and \[0 B\] written, as far as calls say\./
    );
    expect(said({ opens: 0, bytesRead: 0, bytesWritten: 0 })).toMatch(/opened \[0 times\]\.$/);
  });
  it('of outgoing requests the first byte, and who asks again; nothing of what is not told', () => {
    const outgoing = {
      calls: 100,
      repeated: 7,
      phased: 50,
      answered: 40,
      lookupNs: 0,
      connectNs: 2e9,
      tlsNs: 0,
      firstByteNs: 4e9,
      restNs: 4e8,
      statuses: []
    };
    expect(said({ outgoing })).toMatch(
      /Of \[40 calls\] that tell it, the first byte came after \[100 ms\] on average, the rest took \[10.* ms\]; connecting took \[2.* s\] in total\. \[7 calls\] asked what/
    );
    expect(said({ outgoing: { ...outgoing, answered: 0, repeated: 0 } })).not.toContain('first byte');
  });
});

describe('groupReading', () => {
  const page = {
    totals: { calls: 300, requests: 100, totalNs: 3e9, failed: 0, retried: 0, onRound: 0 },
    group: { kind: 'http' },
    endpoints: [],
    series: [],
    onRound: []
  } as unknown as CallGroupPage;
  it('says how often a request asks and how long that takes', () => {
    expect(groupReading(page).map(marked)).toEqual([
      expect.stringMatching(
        /\[300 times\] by 100 requests: \[3\.0\] per request, \[10.ms\] each, \[30.ms\] in a request/
      )
    ]);
  });
  it('says what failed, was tried again, and ended at a round limit', () => {
    const bad = {
      ...page,
      totals: { ...page.totals, failed: 7, retried: 5, onRound: 4 },
      onRound: [{ limitNs: 5e9, calls: 4 }]
    } as CallGroupPage;
    const text = groupReading(bad).map(plainText).join(' ');
    expect(text).toContain('7 failed, 5 were retried.');
    expect(text).toMatch(/4 ended just after 5.*s: likely a timeout/);
  });
});
