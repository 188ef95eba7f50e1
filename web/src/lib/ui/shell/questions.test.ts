import { describe, expect, test } from 'vitest';
import type { PaletteHit } from '$lib/server/queries/palette';
import { answersTo, FORMS, formsFrom, questionOf, type Answer } from './questions';

const HITS: PaletteHit[] = [
  {
    kind: 'endpoint',
    label: 'POST /calls',
    detail: 'endpoint of berths',
    service: 'berths',
    name: 'POST /calls'
  },
  { kind: 'release', label: '7.3', detail: 'release', name: '7.3' },
  { kind: 'service', label: 'tides', detail: 'service', name: 'tides' },
  { kind: 'call', label: 'select ?', detail: 'database call', group: 7 },
  {
    kind: 'named',
    label: 'highWater',
    detail: 'in a profile of tides',
    of: 'profile',
    id: 'p',
    name: 'highWater'
  },
  {
    kind: 'named',
    label: 'TideWindow',
    detail: 'in a heap dump of tides',
    of: 'heap',
    id: 'h',
    name: 'TideWindow'
  },
  { kind: 'named', label: 'crane-1', detail: 'in a thread dump', of: 'threads', id: 't', name: 'crane-1' }
];
const ask = (text: string): Answer[] => answersTo(text, questionOf(text)!, HITS);

describe('questions in words', () => {
  test.each([
    ['why is POST /calls slow', 'POST /calls', '/why', { service: 'berths', endpoint: 'POST /calls' }],
    ['Why is post /ca', 'post /ca', '/why', { service: 'berths', endpoint: 'POST /calls' }],
    ['what changed since 7.3?', '7.3', '/compare/release', { release: '7.3' }],
    ['failed requests of tides', 'tides', '/requests', { status: 'failed' }],
    ['slowest requests of tides slower than 2 s', 'tides', '/requests', { slower: 2000 }]
  ])('%s', (text, name, path, change) => {
    expect(questionOf(text)?.name).toBe(name);
    const answers = ask(text);
    expect(answers.map((one) => one.path)).toContain(path);
    expect(
      answers.some((one) =>
        Object.entries(change).every(([key, value]) => one.change?.[key as never] === value)
      )
    ).toBe(true);
  });

  test('of a name only what is asked about it leads anywhere', () => {
    expect(ask('who calls highWater').map(({ path }) => path)).toEqual(['/calls/7', '/profiles/p']);
    expect(ask('what keeps TideWindow')).toMatchObject([
      { path: '/heap/h', choices: { class: 'TideWindow' } }
    ]);
    expect(ask('who blocks crane-1')).toMatchObject([
      { path: '/threads/t', sentence: 'Who blocks crane-1?' }
    ]);
  });

  test('a user needs no search', () => {
    expect(ask('slowest requests of user 41')[0]).toMatchObject({
      path: '/requests',
      change: { user: '41' }
    });
  });

  test('every form understands itself, and is offered from its first letters on', () => {
    for (const { template } of FORMS) {
      expect(questionOf(template.replace('…', 'x'))?.form.template).toBe(template);
      expect(formsFrom(template.slice(0, 3))).toContain(template);
    }
    expect(formsFrom('w')).toEqual([]);
    expect(questionOf('berths')).toBeNull();
    expect(questionOf('what')).toBeNull();
  });
});
