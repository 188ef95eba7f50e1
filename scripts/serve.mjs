// Starts the built server as a child and waits until it answers.
import { fork } from 'node:child_process';
import path from 'node:path';
import { ROOT } from './prepare.mjs';
import { SERVER_ENV } from '../web/server-env.mjs';

/** @returns the child, once it listens. */
export function startServer(env) {
  const child = fork(path.join(ROOT, 'web/server.mjs'), [], {
    cwd: path.join(ROOT, 'web'),
    env: { ...SERVER_ENV, ...process.env, ...env }
  });
  return new Promise((resolve) => {
    child.once('message', () => resolve(child));
    child.once('exit', (code) => process.exit(code ?? 1));
  });
}

/** Ends the children with this process. */
export function stopWith(children) {
  for (const signal of ['SIGINT', 'SIGTERM']) {
    process.once(signal, () => {
      for (const child of children) child.kill('SIGTERM');
    });
  }
}
