// `npm run demo`: installs, builds, loads the recorded demo set, serves it, and runs Quillhaven beside it.
// Options: --fixed query-per-row,lock-queue (or all) switches faults off; --quiet runs no live services.
import { fork } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { rmSync } from 'node:fs';
import path from 'node:path';
import { ensureBuild, ensurePackages, ROOT, say } from './prepare.mjs';
import { startServer, stopWith } from './serve.mjs';

const begun = Date.now();
const fixedAt = process.argv.indexOf('--fixed');
const fixed = fixedAt > 0 ? (process.argv[fixedAt + 1] ?? '') : '';
const port = process.env.PORT ?? '4380';
const data = path.join(ROOT, 'data/demo');
const DESK_PORT = Number(port) + 110;
const bearer = () =>
  process.env.TROMIX_TOKEN ? { authorization: `Bearer ${process.env.TROMIX_TOKEN}` } : {};

ensurePackages();
ensureBuild();
// The demo begins anew each time: its times are shifted to the present.
rmSync(data, { recursive: true, force: true });
say('Loading the demo data');
const server = await startServer({
  PORT: port,
  TROMIX_DATA: data,
  TROMIX_DEMO: path.join(ROOT, 'workload/recordings'),
  TROMIX_SOURCES: path.join(ROOT, 'workload/src'),
  TROMIX_INSPECT: '127.0.0.1:9229-9239, 127.0.0.1:4500-4505'
});
const children = [server];
stopWith(children);
const desk = await startDesk();
// The page is full already; live traffic arrives on top of it.
say(`Ready after ${((Date.now() - begun) / 1000).toFixed(1)} s. Open http://127.0.0.1:${port}`);
if (desk) say(`The harbour desk takes notices; what it took stands at ${desk}`);
if (!process.argv.includes('--quiet')) {
  const live = fork(path.join(ROOT, 'workload/run.mjs'), ['src/live.ts'], {
    cwd: path.join(ROOT, 'workload'),
    env: {
      ...process.env,
      QH_OTLP: `http://127.0.0.1:${port}`,
      QH_DATA: path.join(data, 'quillhaven'),
      QH_FIXED: fixed,
      QH_AGENTS: '1'
    },
    silent: true
  });
  children.push(live);
  live.stderr.on('data', (text) => process.stderr.write(text));
  live.once('message', () => say('Quillhaven’s services run beside it and send their traces.'));
}

/** Starts the stand-in that takes notices, and has the server send there. @returns its address; '' where its port is taken */
async function startDesk() {
  const secret = randomBytes(32).toString('base64');
  const address = `http://127.0.0.1:${DESK_PORT}/`;
  const child = fork(path.join(ROOT, 'workload/run.mjs'), ['src/desk/desk.ts'], {
    cwd: path.join(ROOT, 'workload'),
    env: { ...process.env, DESK_PORT: String(DESK_PORT), DESK_SECRET: secret },
    silent: true
  });
  children.push(child);
  const isUp = await new Promise((resolve) => {
    child.once('message', () => resolve(true));
    child.once('exit', () => resolve(false));
  });
  if (!isUp) return '';
  const answer = await fetch(`http://127.0.0.1:${port}/api/hooks`, {
    method: 'POST',
    headers: { 'content-type': 'application/json', ...bearer() },
    body: JSON.stringify({ name: 'harbour desk', url: address, least: 'notice', secret })
  });
  const { id } = answer.ok ? await answer.json() : {};
  // One notice is there to be seen before any watch comes on.
  if (id) await fetch(`http://127.0.0.1:${port}/api/hooks/${id}`, { method: 'POST', headers: bearer() });
  return id ? address : '';
}
