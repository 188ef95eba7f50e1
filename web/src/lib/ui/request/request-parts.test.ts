import { describe, expect, it } from 'vitest';
import { timelineRows } from '@tromix/core/trace/rows';
import { loop, requestModel, stored, type TestSpan } from '$lib/testing/stored-requests';
import { byService } from './by-service';
import { closedAll, closedBesideHeaviest, combsOf } from './folds';
import { findingsOf, latestEnd } from './request-model';
import { ticketText } from './ticket-text';
import { timelinePicture } from './timeline-picture';

const root = stored(1, 0, 0, 400, undefined, 'GET /plan', 2);
const model = requestModel([root, ...loop]);
/** A light branch of its own beside one that holds most of the time, in which a further span lies. */
const branches = requestModel([
  root,
  stored(2, 1, 0, 40, undefined, 'greet'),
  stored(3, 2, 10, 30, undefined, 'look up'),
  stored(4, 1, 50, 390, undefined, 'weigh'),
  stored(5, 4, 60, 380, undefined, 'lift')
]);
const idOf = (n: number): string => n.toString(16).padStart(16, '0');

describe('folds', () => {
  it('sum the booked time of a span with all below it', () => {
    const sums = branches.request.within;
    expect(sums[branches.root]).toBe(400e6);
    expect(sums[branches.byId.get(idOf(4))!]).toBe(340e6);
    expect(sums[branches.byId.get(idOf(2))!]).toBe(40e6);
  });
  it('open along the heaviest branch, or leave the request alone', () => {
    expect(closedBesideHeaviest(branches)).toEqual(new Set([idOf(2)]));
    expect(closedAll(branches)).toEqual(new Set([idOf(2), idOf(4)]));
  });
  it('know the combs of what is shown', () => {
    const { rows } = timelineRows(model.trace.tree, model.root, {
      openCombs: new Set(),
      closedSpans: new Set()
    });
    expect(combsOf(rows)).toEqual([...model.combs.keys()]);
    expect([...model.combs.values()].map((members) => members.length)).toEqual([12]);
    expect(model.whole.rows.length).toBe(rows.length);
  });
});

describe('byService', () => {
  it('gives each service its part of the ledger; the parts add up', () => {
    const [row, ...others] = byService(model);
    expect(others).toEqual([]);
    expect(row).toMatchObject({
      service: 'berths',
      hosts: 'quay-2',
      spans: 13,
      requests: 1,
      bookedNs: 400e6
    });
    expect(Object.values(row.ledger).reduce((sum, ns) => sum + ns, 0)).toBe(400e6);
  });
});

describe('ticketText', () => {
  const text = ticketText(model, findingsOf(model), 'http://tromix/requests/x').replaceAll('\u202f', ' ');
  it('says what a colleague needs: request, accounts, findings with what to expect, calls, address', () => {
    expect(text).toMatch(/^# GET \/plan: 400 ms\n/);
    expect(text).toContain('| Database | 180 ms | 45 % |');
    expect(text).toMatch(/- \*\*One query per row\.\*\*/);
    expect(text).toMatch(/Expected after it: \d+ ms( to \d+ ms)?\./);
    expect(text).toContain('| 12 | 180 ms | 180 ms | `select id, tonnes from manifest where id = ?` |');
    expect(text.trimEnd().endsWith('http://tromix/requests/x')).toBe(true);
  });
  it('lets no text of a trace become markup or break out of its line', () => {
    const evil = requestModel([
      stored(1, 0, 0, 400, undefined, '[click](javascript:x) <img src=x>\n# Heading', 2),
      ...loop.map((one): TestSpan => ({
        ...one,
        facts: [one.facts[0], 'database', 'select `a` | <b>', 'select']
      }))
    ]);
    const ticket = ticketText(evil, findingsOf(evil), '');
    expect(ticket).not.toMatch(/^# Heading/m);
    expect(ticket).not.toMatch(/(?<!\\)<img/);
    expect(ticket).not.toMatch(/(?<!\\)\[click/);
    for (const line of ticket.split('\n').filter((one) => one.startsWith('| 12')))
      expect(line.match(/(?<!\\)\|/g)).toHaveLength(6);
  });
});

describe('timelinePicture', () => {
  it('is one SVG that stands alone, with its texts as text', () => {
    const evil = requestModel([
      stored(1, 0, 0, 400, undefined, '</text><script>x()</script>\u0000', 2),
      ...loop
    ]);
    const { rows, rowOf } = timelineRows(evil.trace.tree, evil.root, {
      openCombs: new Set(),
      closedSpans: new Set()
    });
    const picture = timelinePicture(evil, rows, rowOf, (token) => `c-${token.slice(6, -1)}`);
    expect(picture).toMatch(/^<svg [^>]*xmlns="http:\/\/www\.w3\.org\/2000\/svg"/);
    expect(picture).not.toContain('<script');
    expect(picture).not.toContain('\u0000');
    expect(picture).toContain('× 12');
    expect(picture).not.toContain('var(--');
  });
  it('reaches to the end of what outlives the request', () => {
    const late = requestModel([root, stored(2, 1, 300, 700, undefined, 'tell the board')]);
    expect(latestEnd(late) - late.trace.tree.start[late.root]).toBe(700e6);
  });
});
