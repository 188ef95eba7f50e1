import { fork } from 'node:child_process';
import { mkdirSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:net';
import path from 'node:path';
import { createClient } from '@libsql/client';
import { afterEach, beforeEach, expect, it } from 'vitest';
import { SERVER_ENV } from '../server-env.mjs';
import { makeFolder, refusedStart, removeFolder, startServer, tracesOf, type AttackedServer } from './server';

let data: string;
const servers: AttackedServer[] = [];
beforeEach(() => (data = makeFolder()));
afterEach(async () => {
  for (const server of servers.splice(0)) await server.stop('SIGKILL');
  removeFolder(data);
});

/** One sentence, or two, in one line: words for whoever starts a server, and never a stack. */
async function expectWords(
  env: Record<string, string>,
  words: RegExp,
  code: number,
  folder = data
): Promise<void> {
  const refused = await refusedStart(folder, env);
  expect(refused.said).toMatch(words);
  expect(refused.said).not.toMatch(/\n\s+at |node:internal|Error:/);
  expect(refused.said.trim().split('\n')).toHaveLength(1);
  expect(refused.code).toBe(code);
}

it('a second server on one data folder is refused, and told who holds it; the first goes on', async () => {
  const first = await startServer(data);
  servers.push(first);
  await expectWords({}, new RegExp(`in use by another Tromix server \\(process ${first.process.pid} on`), 1);
  const elsewhere = makeFolder();
  await expectWords(
    { TROMIX_DB: `file:${path.join(data, 'tromix.sqlite')}` },
    /The data folder|The database/,
    1,
    data
  );
  removeFolder(elsewhere);
  expect((await first.send('traces', tracesOf([{ trace: 1, span: 1 }]))).status).toBe(200);
  // One that was killed holds nothing.
  await first.stop('SIGKILL');
  servers.push(await startServer(data));
});

it('two data folders that name one database are distinguished from two databases', async () => {
  const shared = path.join(data, 'shared.sqlite');
  servers.push(await startServer(path.join(data, 'a'), { TROMIX_DB: `file:${shared}` }));
  await expectWords({ TROMIX_DB: `file:${shared}` }, /The database .* is in use/, 1, path.join(data, 'b'));
});

it('damaged surroundings are named in one sentence', async () => {
  const database = path.join(data, 'tromix.sqlite');
  mkdirSync(database, { recursive: true });
  await expectWords({}, /is a folder/, 1);
  removeFolder(database);
  writeFileSync(database, 'minutes of the harbour board, '.repeat(400));
  await expectWords({}, /is damaged, or is no database.*npm run rescue/, 1);
  writeFileSync(path.join(data, 'file'), 'x');
  await expectWords({}, /is a file where a folder is needed/, 1, path.join(data, 'file'));
  await expectWords(
    { TROMIX_DB: `file:${path.join(data, 'file', 'x.sqlite')}` },
    /is a file where a folder is needed/,
    1,
    path.join(data, 'other')
  );
});

it('an empty file is a database to begin with', async () => {
  writeFileSync(path.join(data, 'tromix.sqlite'), '');
  servers.push(await startServer(data));
});

it('a locked database is said to be locked', async () => {
  const server = await startServer(data);
  await server.stop();
  const client = createClient({ url: `file:${path.join(data, 'tromix.sqlite')}` });
  await client.execute("DELETE FROM settings WHERE key = 'rows-repaired'");
  const held = await client.transaction('write');
  await expectWords({}, /is locked by another program/, 1);
  await held.rollback();
  client.close();
});

it('a port that is taken, and settings that are none, are named', async () => {
  const other = createServer().listen(0, '127.0.0.1');
  await new Promise((resolve) => other.once('listening', resolve));
  const { port } = other.address() as { port: number };
  await expectWords({ PORT: String(port) }, new RegExp(`Port ${port} is taken`), 1);
  other.close();
  await expectWords({ PORT: 'abc' }, /Invalid PORT: expected a number/, 2);
  await expectWords({ PORT: '70000' }, /Invalid PORT/, 2);
  await expectWords(
    { HOST: '192.0.2.7', TROMIX_TOKEN: 'harbour-master-of-quillhaven' },
    /is no address of this machine/,
    1
  );
  await expectWords({ TROMIX_KEEP_DAYS: 'many' }, /Invalid TROMIX_KEEP_DAYS: expected an integer/, 2);
  await expectWords({ TROMIX_KEEP_DAY: '3' }, /Invalid TROMIX_KEEP_DAY: .*Did you mean TROMIX_KEEP_DAYS/, 2);
  await expectWords({ TROMIX_TOKEN: 'short' }, /Invalid TROMIX_TOKEN: expected at least 16 characters/, 2);
  await expectWords({ TROMIX_INSPECT: 'everywhere' }, /Invalid TROMIX_INSPECT/, 2);
  await expectWords({ HOST: '0.0.0.0' }, /without an access token/, 2);
});

it('a server whose starter is gone while it still loads goes too', async () => {
  const child = fork(path.resolve(import.meta.dirname, '../server.mjs'), [], {
    env: {
      ...process.env,
      ...SERVER_ENV,
      PORT: '0',
      TROMIX_DATA: data,
      TROMIX_DEMO: path.resolve(import.meta.dirname, '../../workload/recordings')
    },
    silent: true
  });
  const ended = new Promise((resolve) => child.once('exit', resolve));
  await new Promise((resolve) => setTimeout(resolve, 3000));
  // As the system closes the channel of a process that was killed.
  child.disconnect();
  expect(await ended).toBe(0);
});
