import { mkdirSync, mkdtempSync, readdirSync, readFileSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { beforeEach, describe, expect, it, vi } from 'vitest';

const taken = vi.hoisted(() => ({
  calls: [] as { label: { name: string; service: string; host: string }; content: string }[]
}));
vi.mock('./take-evidence', () => ({
  takeEvidence: async (
    stream: AsyncIterable<Buffer>,
    label: { name: string; service: string; host: string }
  ) => {
    const parts: Buffer[] = [];
    for await (const part of stream) parts.push(part);
    const content = Buffer.concat(parts).toString();
    taken.calls.push({ label, content });
    if (content.startsWith('deadly')) throw new Error('The thread ended.');
    return content.startsWith('bad')
      ? { ok: false, code: 'no-threads', message: 'No thread was found.' }
      : { ok: true, value: { id: 'x', kind: 'threads', warnings: [] } };
  }
}));
const { WatchedFolder } = await import('./watched-folder');

let folder = '';
beforeEach(() => {
  folder = mkdtempSync(path.join(tmpdir(), 'watched-'));
  taken.calls.length = 0;
});

describe('the watched folder', () => {
  it('takes a file once it stopped growing, and moves it away', async () => {
    const watched = new WatchedFolder(folder);
    writeFileSync(path.join(folder, 'dump.txt'), 'half');
    await watched.look();
    expect(taken.calls).toEqual([]);
    writeFileSync(path.join(folder, 'dump.txt'), 'half and whole');
    await watched.look();
    expect(taken.calls).toEqual([]);
    await watched.look();
    expect(taken.calls.map(({ content }) => content)).toEqual(['half and whole']);
    await watched.look();
    await watched.look();
    expect(taken.calls).toHaveLength(1);
    expect(readdirSync(path.join(folder, 'taken'))).toEqual([expect.stringMatching(/^\d+-dump\.txt$/)]);
  });

  it('knows service and host by the name of a folder, and follows no links', async () => {
    const watched = new WatchedFolder(folder);
    mkdirSync(path.join(folder, 'pilots@quay-3'));
    writeFileSync(path.join(folder, 'pilots@quay-3', 'a.txt'), 'dump');
    const outside = path.join(mkdtempSync(path.join(tmpdir(), 'outside-')), 'secret.txt');
    writeFileSync(outside, 'secret');
    symlinkSync(outside, path.join(folder, 'link.txt'));
    writeFileSync(path.join(folder, '.hidden'), 'x');
    await watched.look();
    await watched.look();
    expect(taken.calls.map(({ label }) => [label.name, label.service, label.host])).toEqual([
      ['a.txt', 'pilots', 'quay-3']
    ]);
  });

  it('takes the others where one cannot be taken, tells of that once, and tries it again when it changes', async () => {
    const told = vi.spyOn(console, 'error').mockImplementation(() => undefined);
    const watched = new WatchedFolder(folder);
    writeFileSync(path.join(folder, 'a.txt'), 'deadly');
    writeFileSync(path.join(folder, 'b.txt'), 'dump');
    for (let i = 0; i < 6; i++) await watched.look();
    expect(taken.calls.map(({ content }) => content)).toEqual(['deadly', 'dump']);
    expect(told.mock.calls.flat()).toEqual([
      expect.stringContaining('a.txt in the watched folder could not be taken')
    ]);
    writeFileSync(path.join(folder, 'a.txt'), 'fixed by now');
    for (let i = 0; i < 3; i++) await watched.look();
    expect(taken.calls.at(-1)?.content).toBe('fixed by now');
    told.mockRestore();
  });

  it('that is missing is reported once, until it is there', async () => {
    vi.useFakeTimers();
    const told = vi.spyOn(console, 'error').mockImplementation(() => undefined);
    const missing = path.join(folder, 'later');
    new WatchedFolder(missing).keepLooking();
    for (let i = 0; i < 5; i++) {
      await vi.advanceTimersByTimeAsync(2100);
      vi.useRealTimers();
      await new Promise((resolve) => setTimeout(resolve, 20));
      vi.useFakeTimers();
    }
    expect(told.mock.calls.flat()).toEqual([expect.stringContaining('The watched folder cannot be read')]);
    vi.useRealTimers();
    told.mockRestore();
  });

  it('keeps what cannot be read, with the reason beside it', async () => {
    const watched = new WatchedFolder(folder);
    writeFileSync(path.join(folder, 'b.txt'), 'bad');
    writeFileSync(path.join(folder, 'empty.txt'), '');
    await watched.look();
    await watched.look();
    const refused = readdirSync(path.join(folder, 'refused')).sort();
    expect(refused).toHaveLength(2);
    expect(readFileSync(path.join(folder, 'refused', refused[1]), 'utf8')).toBe('No thread was found.\n');
    expect(readdirSync(folder)).toContain('empty.txt');
  });
});
