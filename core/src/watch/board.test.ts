import { readFileSync, writeFileSync } from 'node:fs';
import { toJsonSchema } from '@valibot/to-json-schema';
import { describe, expect, it } from 'vitest';
import { BOARD_VERSION, boardFile, BoardFile, readBoard, type Board } from './board';

/** `UPDATE_DOCS=1 npx vitest run --root . core/src/watch/board`, then `npm run format`, writes it anew. */
it('the published JSON Schema of a board is that of the code', () => {
  const docs = new URL('../../../docs/board.schema.json', import.meta.url);
  const made = {
    title: `A board of Tromix, version ${BOARD_VERSION}`,
    ...toJsonSchema(BoardFile, { errorMode: 'ignore', typeMode: 'input' })
  };
  if (process.env.UPDATE_DOCS === '1') writeFileSync(docs, JSON.stringify(made, null, 2));
  expect(JSON.parse(readFileSync(docs, 'utf8'))).toEqual(JSON.parse(JSON.stringify(made)));
});

const place = { service: 'berths', endpoint: 'POST /berths', host: '', release: '' };
const board: Board = {
  name: 'Berthing',
  charts: [
    {
      id: 'a',
      title: '',
      wide: true,
      figures: [{ of: 'requests', figure: 'p95', place, attributes: [], apdexMs: 500 }]
    },
    {
      id: 'b',
      title: 'Queue',
      wide: false,
      figures: [
        {
          of: 'counter',
          name: 'quay.queue',
          unit: '',
          isRate: false,
          part: 'value',
          fold: 'sum',
          place: { ...place, endpoint: '' },
          attributes: []
        }
      ]
    }
  ]
};

describe('a board as a file', () => {
  it('is read as it was written', () => {
    expect(readBoard(JSON.stringify(boardFile(board)))).toEqual({ ok: true, board });
  });

  const changed = (change: object): string => JSON.stringify({ ...boardFile(board), ...change });
  it.each([
    ['{', 'It is not JSON'],
    ['null', 'It is not a board'],
    ['{"name":"x"}', 'It is not a board: expected an object with “tromixBoard”'],
    // What is new in a newer version is not complained of: its version is.
    [
      changed({ tromixBoard: 2, charts: [{ figures: [{ of: 'weather' }] }] }),
      'a board of version 2; this server reads up to 1'
    ],
    [changed({ tromixBoard: 'one' }), 'tromixBoard: expected the version of the form'],
    [changed({ charts: [{ id: 'a', figures: [] }] }), 'charts.0.figures: expected a figure'],
    [
      changed({ charts: [{ id: 'a', figures: [{ of: 'weather' }] }] }),
      'charts.0.figures.0.of: expected what is watched'
    ],
    [
      changed({ charts: Array.from({ length: 41 }, () => board.charts[0]) }),
      'charts: expected at most 40 charts'
    ],
    [changed({ name: ' ' }), 'name: expected a name']
  ])('of %s is refused in words', (text, words) => {
    const read = readBoard(text);
    expect(read.ok).toBe(false);
    expect(read.ok ? '' : read.message).toContain(words);
  });
});
