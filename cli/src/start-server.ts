import { fork } from 'node:child_process';
import path from 'node:path';
import { SERVER_ENV } from '../../web/server-env.mjs';
import { PLACES } from './places';
import { EXIT, type Outcome } from './command';

/** Settings that name folders: a server in its own folder must find them from where the command was called. */
const FOLDERS = ['TROMIX_DATA', 'TROMIX_WATCH', 'TROMIX_DEMO'] as const;
const FOLDER_LISTS = ['TROMIX_SOURCES'] as const;

type Environment = Record<string, string | undefined>;

/** The settings with every folder as seen from here. */
export function fromHere(env: Environment, here: string): Environment {
  const at = (folder: string): string => path.resolve(here, folder.trim());
  const out = { ...env };
  for (const name of FOLDERS) if (out[name]) out[name] = at(out[name]);
  for (const name of FOLDER_LISTS)
    if (out[name])
      out[name] = out[name]
        .split(',')
        .filter((folder) => folder.trim() !== '')
        .map(at)
        .join(',');
  return out;
}

/** Starts the server as a child that ends with this process. Its exit code becomes the command’s. */
export function startServer(env: Environment, outcome: Outcome): void {
  outcome.code = null;
  const child = fork(PLACES.server, [], {
    env: { ...SERVER_ENV, ...fromHere({ ...process.env, ...env }, process.cwd()) }
  });
  child.once('exit', (code) => (process.exitCode = code ?? EXIT.failed));
  for (const signal of ['SIGINT', 'SIGTERM'] as const) process.once(signal, () => child.kill('SIGTERM'));
}
