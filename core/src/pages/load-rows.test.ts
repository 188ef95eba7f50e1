import { describe, expect, it } from 'vitest';
import { load, resource } from '../testing/page-load';
import { chainToPaint } from './chain';
import { loadRows } from './load-rows';

const board = load({
  largest: { atMs: 4000, element: 'img', url: 'https://quay.example/harbour.webp' },
  resources: [
    resource('document', 'https://quay.example/board', 0, 340, { transferBytes: 24_000 }),
    resource('script', 'https://quay.example/b.js', 360, 900, { transferBytes: 100 }),
    resource('script', 'https://quay.example/a.js', 350, 2600, { transferBytes: null }),
    resource('style', 'https://quay.example/s.css', 350, 500),
    ...Array.from({ length: 24 }, (_, i) =>
      resource('data', `https://quay.example/tides/${i}`, 2600 + i * 10, 2610 + i * 10)
    ),
    resource('picture', 'https://quay.example/harbour.webp', 3300, 3950),
    resource('picture', 'https://quay.example/late.png', 5000, 5100)
  ],
  tasks: [
    { startMs: 2650, endMs: 3250, script: 'https://quay.example/a.js', function: 'drawTides' },
    { startMs: 4500, endMs: 4600, script: '', function: '' }
  ]
});

describe('a load as rows', () => {
  const rows = loadRows(board, chainToPaint(board));
  it('stands under headings, alike things together', () => {
    expect(rows.map(({ group, label, members }) => [group, label, members.length])).toEqual([
      ['document', 'GET /board', 1],
      ['styles and script', 's.css', 1],
      ['styles and script', '2 scripts before the paint', 2],
      ['styles and script', 'long task: drawTides', 1],
      ['data', 'GET /tides/:id', 24],
      ['pictures and fonts', 'harbour.webp (the largest paint)', 1],
      ['after the paint', '1 more', 1],
      ['after the paint', 'long task: not told by what', 1]
    ]);
  });

  it('has each thing in one row, in order of time', () => {
    const members = (of: string): number[] =>
      rows.filter((row) => row.of === of).flatMap((row) => row.members);
    expect(members('resource').toSorted((a, b) => a - b)).toEqual(board.resources.map((_, i) => i));
    expect(members('task').toSorted((a, b) => a - b)).toEqual([0, 1]);
    expect(rows[2]).toMatchObject({ members: [2, 1], fromMs: 350, toMs: 2600, bytes: 100 });
  });

  it('has nothing after a paint that was not told', () => {
    const untold = loadRows({ ...board, largest: null }, []);
    expect(untold.some(({ group }) => group === 'after the paint')).toBe(false);
  });
});
