import { mkdtemp, rm } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import { evidenceOfCase, type Case, type Entry } from '@tromix/core/case/case';
import { openDatabase } from '$lib/server/db/client';
import { MINUTE, openWriter, request, RETENTION, sendRequests } from '$lib/testing/sent-requests';
import type { Writer } from '../ingest/writer';

/** Cases in a database of their own. */
let folder: string;
let url: string;
let writer: Writer;
vi.mock('../settings', () => ({
  settings: () => ({ databaseUrl: url, sourceFolders: [], retention: RETENTION })
}));
vi.mock('../workers', async () => (await import('$lib/testing/local-workers')).localWorkers(() => url));
const { caseOf, caseOnFile, casesOf, caseWithoutPictures, keptBy, keptOf, pictureOf } =
  await import('./cases');

const NOW = Date.now();
const TRACE = (1).toString(16).padStart(32, '0');
const FILE = 'ab'.repeat(32);
const entry = (id: number, more: Partial<Entry> = {}): Entry => ({
  id: String(id).padStart(16, '0'),
  atUs: NOW * 1000 + id,
  title: `entry ${id}`,
  text: '',
  pin: null,
  version: 1,
  ...more
});
const pinned = entry(1, {
  pin: {
    kind: 'request',
    role: 'slow request',
    sentence: 'It is slow.',
    figures: [{ name: 'took', value: '1 s' }],
    address: '/requests/a/b',
    picture: '',
    code: null,
    verbatim: '',
    traces: [TRACE],
    files: [FILE]
  }
});
const one: Case = {
  id: 'feedfeedfeedfeed',
  question: 'Why is it slow?',
  state: 'open',
  told: '',
  createdAtUs: NOW * 1000,
  version: 1,
  entries: [pinned]
};

beforeAll(async () => {
  folder = await mkdtemp(path.join(os.tmpdir(), 'tromix-cases-'));
  url = `file:${path.join(folder, 'test.sqlite')}`;
  writer = await openWriter(url);
  await sendRequests(writer, [
    request({ trace: 1, at: NOW - 5 * MINUTE, ms: 40, queries: 3 }),
    request({ trace: 2, at: NOW - 4 * MINUTE, ms: 40, queries: 3 })
  ]);
  await writer.change('openCase', one, keptBy(one));
});
afterAll(async () => {
  await writer.close();
  await rm(folder, { recursive: true, force: true });
});

describe('a case', () => {
  it('comes back as it was opened', async () => {
    expect(await caseOf(one.id)).toEqual(one);
    expect(await caseOf('0000000000000000')).toBeNull();
    expect(await casesOf()).toMatchObject([{ id: one.id, state: 'open', entries: 1 }]);
  });

  it('comes without its pictures where they are asked for one by one', async () => {
    const id = 'beefbeefbeefbeef';
    const picture =
      '<svg xmlns="http://www.w3.org/2000/svg" width="820" height="120.5" viewBox="0 0 9 9"><rect width="5"/></svg>';
    const unsized = entry(9, { pin: { ...pinned.pin!, picture: '<svg><rect width="5" height="5"/></svg>' } });
    const drawn = entry(7, { pin: { ...pinned.pin!, picture } });
    const pictures = { ...one, id, entries: [drawn, entry(8), unsized] };
    await writer.change('openCase', pictures, keptBy(pictures));
    expect(await caseWithoutPictures(id)).toMatchObject({
      one: { entries: [{ pin: { sentence: 'It is slow.', picture: '' } }, { pin: null }, {}] },
      pictured: { [drawn.id]: { width: 820, height: 120.5 }, [unsized.id]: { width: 0, height: 0 } }
    });
    expect(await pictureOf(id, drawn.id)).toBe(picture);
    expect(await pictureOf(id, entry(8).id)).toBe('');
    expect(await caseWithoutPictures('0000000000000000')).toBeNull();
    await writer.change('removeCase', id);
  });

  it('keeps its order when entries are added, moved and taken out', async () => {
    for (const id of [2, 3]) await writer.change('addEntry', one.id, entry(id), { traces: [], files: [] });
    await writer.change('orderEntries', one.id, [entry(3).id, pinned.id, entry(2).id]);
    expect((await caseOf(one.id))!.entries.map(({ title }) => title)).toEqual([
      'entry 3',
      'entry 1',
      'entry 2'
    ]);
    await writer.change('removeEntry', one.id, entry(2).id, keptBy(one));
    expect((await caseOf(one.id))!.entries).toHaveLength(2);
  });

  it('writes nothing over what somebody else wrote meanwhile', async () => {
    const { id } = entry(3);
    const change = (version: number, text: string): Promise<void> =>
      writer.change('changeEntry', one.id, id, version, { title: 'entry 3', text });
    await change(1, 'theirs');
    await change(1, 'mine');
    const now = (await caseOf(one.id))!.entries.find((each) => each.id === id)!;
    expect(now).toMatchObject({ text: 'theirs', version: 2 });
    await change(2, 'both');
    expect((await caseOf(one.id))!.entries.find((each) => each.id === id)).toMatchObject({
      text: 'both',
      version: 3
    });
  });

  it('puts a pin in other words, and leaves what it showed', async () => {
    const find = async () => (await caseOf(one.id))!.entries.find(({ id }) => id === pinned.id)!;
    const { version } = await find();
    const words = { title: 'The wait', text: '', sentence: 'It waits for the database.' };
    await writer.change('changeEntry', one.id, pinned.id, version - 1, words);
    expect(await find()).toMatchObject({ title: 'entry 1', pin: { sentence: 'It is slow.' } });
    await writer.change('changeEntry', one.id, pinned.id, version, words);
    expect(await find()).toMatchObject({
      title: 'The wait',
      pin: { ...pinned.pin, sentence: 'It waits for the database.' },
      version: version + 1
    });
    await writer.change('changeEntry', one.id, pinned.id, version + 1, {
      title: 'entry 1',
      text: '',
      sentence: 'It is slow.'
    });
  });

  it('says what it keeps, and of a file that it stands on it', async () => {
    expect(await keptOf(one)).toMatchObject({ traces: 1, namedTraces: 1, files: 0, namedFiles: 1 });
    expect(await caseOnFile(FILE)).toEqual({ question: one.question });
    expect(await caseOnFile('cd'.repeat(32))).toBeNull();
    expect(evidenceOfCase(one)).toEqual({ traces: [TRACE], files: [FILE] });
  });
});

describe('what an open case stands on', () => {
  it('is exempt from removal until the case is closed', async () => {
    const traces = async (): Promise<number> => {
      const client = openDatabase(url);
      const { rows } = await client.execute('SELECT count(DISTINCT trace_id) AS n FROM requests');
      client.close();
      return Number(rows[0].n);
    };
    // A long time later.
    const later = NOW + 40 * 24 * 60 * MINUTE;
    await writer.sweep(later);
    expect(await traces()).toBe(1);
    expect((await keptOf(one)).traces).toBe(1);
    const now = (await caseOf(one.id))!;
    // Closed by somebody who saw an older state: nothing is let go.
    const closed = { question: now.question, state: 'proved', told: '' } as const;
    await writer.change('changeCase', one.id, now.version - 1, closed, keptBy({ ...now, state: 'proved' }));
    await writer.sweep(later);
    expect(await traces()).toBe(1);
    await writer.change('changeCase', one.id, now.version, closed, keptBy({ ...now, state: 'proved' }));
    await writer.sweep(later);
    expect(await traces()).toBe(0);
    expect((await keptOf(one)).traces).toBe(0);
    // What was pinned is still readable.
    expect((await caseOf(one.id))!.entries.some(({ pin }) => pin?.sentence === 'It is slow.')).toBe(true);
  });
});
