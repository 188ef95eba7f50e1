import { readFileSync } from 'node:fs';
import path from 'node:path';
import { describe, expect, it } from 'vitest';
import { readArchive } from '../core/src/formats/har';
import { loadsFromHar } from '../core/src/pages/har';

/** A load of a page by Chromium, as Playwright recorded it (`pages/record.mjs` says what each file is, and how long its server keeps it). */
const text = readFileSync(path.join(import.meta.dirname, 'pages/board.har'), 'utf8');
const read = readArchive(text);
if (!read.ok) throw new Error(read.message);
const [load, ...others] = loadsFromHar(read.log, () => ({ traceId: '1', service: 'board', release: '' }));

describe('a recorded archive', () => {
  it('is one load of one page, with its files by kind', () => {
    expect(others).toEqual([]);
    expect(load.page).toBe('/board/:id');
    const kinds = Object.fromEntries(load.resources.map(({ url, kind }) => [new URL(url).pathname, kind]));
    expect(kinds).toMatchObject({
      '/board/17': 'document',
      '/board.css': 'style',
      '/board.js': 'script',
      '/tides': 'data',
      '/harbour.svg': 'picture'
    });
  });

  // The server keeps each file so long; what is above is the way to it.
  it.each([
    ['/board/17', 120],
    ['/board.css', 20],
    ['/board.js', 60],
    ['/tides', 40],
    ['/harbour.svg', 30]
  ])('%s waited %d ms for its first byte', (name, ms) => {
    const { phases, startMs, endMs, status, transferBytes } = load.resources.find(
      ({ url }) => new URL(url).pathname === name
    )!;
    const waitedMs = phases!.responseStartMs! - phases!.requestStartMs!;
    expect(waitedMs).toBeGreaterThanOrEqual(ms - 2);
    expect(waitedMs).toBeLessThan(ms + 50);
    expect(phases!.responseStartMs).toBeGreaterThanOrEqual(startMs);
    expect(endMs).toBeGreaterThanOrEqual(phases!.responseStartMs! - 1);
    expect(status).toBe(200);
    expect(transferBytes).toBeGreaterThan(0);
  });

  it('leads to the request of the server that answered', () => {
    expect(load.resources[0]).toMatchObject({
      traceId: '4bf92f3577b34da6a3ce929d0e0e4736',
      spanId: '00f067aa0ba902b7'
    });
  });

  it('says when the page was loaded, after its last file that the load waits for', () => {
    const picture = load.resources.find(({ kind }) => kind === 'picture')!;
    expect(load.loadedMs).toBeGreaterThan(picture.endMs - 20);
    expect(load.vitals.ttfb).toBeGreaterThanOrEqual(118);
  });
});
