import { fork, type ChildProcess } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import { LIVE, FLEET_PORT } from './servers';

const WORKLOAD = fileURLToPath(new URL('../../workload/', import.meta.url));
const SCRATCH = fileURLToPath(new URL('../../.tmp/e2e-fleet', import.meta.url));

const MOST_SAID = 4000;
let fleet: ChildProcess | undefined;
/** Runs Quillhaven beside a server, with faults switched off by name, all services of one release where one is named. Nobody asks it for anything but the test. */
export async function runFleet(fixed: string, release = ''): Promise<void> {
  await stopFleet();
  const child = fork('run.mjs', ['src/live.ts'], {
    cwd: WORKLOAD,
    env: {
      ...process.env,
      QH_OTLP: LIVE.url,
      QH_DATA: SCRATCH,
      QH_FIRST_PORT: String(FLEET_PORT),
      QH_FIXED: fixed,
      QH_RELEASE: release,
      QH_USERS: '0'
    },
    silent: true
  });
  fleet = child;
  let said = '';
  child.stderr?.on('data', (part) => (said = (said + String(part)).slice(-MOST_SAID)));
  await new Promise((resolve, reject) =>
    child
      .once('message', resolve)
      .once('exit', (code) => reject(new Error(`The fleet ended with ${code} before it answered. ${said}`)))
  );
}

export async function stopFleet(): Promise<void> {
  const child = fleet;
  fleet = undefined;
  if (!child || child.exitCode !== null) return;
  const gone = new Promise((resolve) => child.once('exit', resolve));
  child.kill('SIGTERM');
  await gone;
}
