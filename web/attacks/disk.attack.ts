import { execFileSync, spawnSync } from 'node:child_process';
import {
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  rmSync,
  truncateSync,
  writeFileSync
} from 'node:fs';
import path from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { makeFolder, removeFolder, startServer, tracesOf, type AttackedServer } from './server';

const MIB = 1024 * 1024;
let data: string;
let server: AttackedServer | undefined;

/** A file system of a few megabytes: needs the right to mount, as in a container of one's own. */
let mounted = false;
beforeAll(() => {
  data = makeFolder();
  mounted = spawnSync('mount', ['-t', 'tmpfs', '-o', 'size=24m', 'tmpfs', data]).status === 0;
});
afterAll(async () => {
  await server?.stop('SIGKILL');
  if (mounted) execFileSync('umount', ['-l', data]);
  removeFolder(data);
});

const filesIn = (folder: string): string[] =>
  existsSync(folder)
    ? readdirSync(folder, { recursive: true, withFileTypes: true })
        .filter((entry) => entry.isFile())
        .map(({ name }) => name)
    : [];

describe('a full disk', () => {
  it('is told in words, leaves nothing half, and the service goes on', async ({ skip }) => {
    if (!mounted) skip('No file system can be mounted here: the full disk is not tried.');
    server = await startServer(data);
    expect((await server.send('traces', tracesOf([{ trace: 1, span: 1 }]))).status).toBe(200);
    const stacks = (count: number): string =>
      Array.from({ length: count }, (_, i) => `main;f${i};${'g'.repeat(40)} ${i + 1}`).join('\n');
    const kept = await server.upload(`${stacks(100)}\n`);
    expect(kept.status).toBe(201);
    const { id } = JSON.parse(kept.text) as { id: string };
    // Larger than what is left.
    const refused = await server.upload(stacks(600_000));
    expect([refused.status, refused.text]).toEqual([507, expect.stringContaining('"code":"disk-full"')]);
    expect(refused.text).toContain('The disk of the data folder is full');
    expect(filesIn(path.join(data, 'evidence/incoming'))).toEqual([]);
    expect(filesIn(path.join(data, 'evidence'))).toEqual([id]);
    // Now no byte is left.
    const filler = path.join(data, 'filler');
    try {
      for (let i = 0; i < 100; i++) writeFileSync(filler, Buffer.alloc(MIB), { flag: 'a' });
    } catch {
      // Full.
    }
    try {
      for (let i = 0; i < 1000; i++) writeFileSync(filler, Buffer.alloc(512), { flag: 'a' });
    } catch {
      // To the last.
    }
    let status = 200;
    let text = '';
    for (let trace = 10; trace < 200 && status === 200; trace++)
      ({ status, text } = await server.send(
        'traces',
        tracesOf(Array.from({ length: 500 }, (_, i) => ({ trace, span: i + 1, name: 'n'.repeat(200) })))
      ));
    expect([status, text]).toEqual([503, expect.stringContaining('The disk of the data folder is full')]);
    expect((await server.upload('a;b 1\nc;d 2\n')).status).toBe(507);
    expect((await server.ask('/')).status).toBe(200);
    expect((await server.ask('/evidence/__data.json')).text).toContain(id);
    // Room again: everything goes on, and nothing acknowledged is lost.
    rmSync(filler);
    expect(
      (await server.send('traces', tracesOf([{ trace: 900, span: 1, name: 'after the flood' }]))).status
    ).toBe(200);
    await server.until('/api/palette?q=after', (list) => list.includes('after the flood'));
    const content = await server.ask(`/api/evidence/${id}/content`);
    expect(content.text).toBe(`${stacks(100)}\n`);
  });
});

describe('what a killed server leaves behind', () => {
  it('is cleaned at the next start, and evidence that is listed stays', async () => {
    const folder = makeFolder();
    let one = await startServer(folder);
    const { id } = JSON.parse((await one.upload('a;b 1\nc;d 2\n')).text) as { id: string };
    await one.stop('SIGKILL');
    const orphan = 'ab'.repeat(32);
    for (const file of [
      'evidence/incoming/x',
      'recording/y.part',
      `evidence/ab/${orphan}`,
      `index/v2/${id}.partial/shallow`,
      `index/v1/${orphan}/meta.json`
    ]) {
      mkdirSync(path.join(folder, path.dirname(file)), { recursive: true });
      writeFileSync(path.join(folder, file), 'left behind');
    }
    one = await startServer(folder);
    expect(filesIn(path.join(folder, 'evidence'))).toEqual([id]);
    for (const place of ['evidence/incoming', 'recording', 'index'])
      expect(filesIn(path.join(folder, place))).toEqual([]);
    // A file that is gone is told as that.
    rmSync(path.join(folder, 'evidence', id.slice(0, 2), id));
    const gone = await one.ask(`/api/evidence/${id}/content`);
    expect([gone.status, gone.text]).toEqual([
      410,
      expect.stringContaining('is missing from the data folder')
    ]);
    await one.stop('SIGKILL');
    removeFolder(folder);
  });

  it('evidence that no row names stays where the database lists none at all, and is told', async () => {
    const folder = makeFolder();
    let one = await startServer(folder);
    const { id } = JSON.parse((await one.upload('a;b 1\nc;d 2\n')).text) as { id: string };
    await one.stop();
    for (const end of ['', '-wal', '-shm']) rmSync(path.join(folder, `tromix.sqlite${end}`), { force: true });
    one = await startServer(folder);
    expect(filesIn(path.join(folder, 'evidence'))).toEqual([id]);
    expect(one.stderr).toContain('check that TROMIX_DB names the right database');
    await one.stop('SIGKILL');
    removeFolder(folder);
  });
});

/** The bytes of the dump that a page's data names. Values stand there once, and objects name them by their places. */
function liveBytesIn(text: string): number {
  const { nodes } = JSON.parse(text.split('\n')[0]) as { nodes: ({ data?: unknown[] } | null)[] };
  for (const { data = [] } of nodes.filter((node) => node !== null))
    for (const item of data)
      if (typeof item === 'object' && item !== null && 'liveBytes' in item)
        return Number(data[(item as { liveBytes: number }).liveBytes]);
  return NaN;
}

it('a dump that is sent again keeps what was found in it', async () => {
  const folder = makeFolder();
  const one = await startServer(folder);
  const dump = readFileSync(
    path.resolve(import.meta.dirname, '../../workload/recordings/heap-tides-1.heapsnapshot.gz')
  );
  const { id } = JSON.parse((await one.upload(dump)).text) as { id: string };
  const found = await one.until('/heap/__data.json', (text) => /"objects":/.test(text));
  expect(liveBytesIn(found)).toBeGreaterThan(0);
  await one.upload(dump);
  expect(liveBytesIn((await one.ask('/heap/__data.json')).text)).toBe(liveBytesIn(found));
  // Its index is damaged while the server does not run: it is built anew.
  await one.stop();
  const index = path.join(folder, 'index/v2', id);
  for (const name of readdirSync(index)) truncateSync(path.join(index, name), 3);
  const again = await startServer(folder);
  await again.ask(`/api/heap/${id}`);
  await again.until(`/api/heap/${id}`, (text) => text.includes('"ready"'));
  await again.stop('SIGKILL');
  removeFolder(folder);
});

it('a file that is sent and removed at the same time has a row and its file, or neither', async () => {
  const folder = makeFolder();
  const one = await startServer(folder);
  const { id } = JSON.parse((await one.upload('a;b 1\nc;d 2\n')).text) as { id: string };
  for (let i = 0; i < 20; i++) {
    await Promise.all([
      one.upload('a;b 1\nc;d 2\n'),
      one.ask(`/api/evidence/${id}`, { method: 'DELETE' }),
      one.upload('a;b 1\nc;d 2\n'),
      one.ask(`/api/evidence/${id}`, { method: 'DELETE' })
    ]);
    const listed = (await one.ask('/evidence/__data.json')).text.includes(id);
    expect(filesIn(path.join(folder, 'evidence')).includes(id)).toBe(listed);
    expect((await one.ask(`/api/evidence/${id}/content`)).status).toBe(listed ? 200 : 404);
  }
  await one.stop('SIGKILL');
  removeFolder(folder);
});
