import { existsSync, readFileSync } from 'node:fs';
import path from 'node:path';

const HERE = import.meta.dirname;
/** The folder of the package; in the repository, where nothing is bundled, its root. */
const PACKAGE = path.resolve(HERE, '..');
const isPackage = existsSync(path.join(PACKAGE, 'server/server.mjs'));
const ROOT = isPackage ? PACKAGE : path.resolve(HERE, '../..');

/** The version of the package. */
export const VERSION = String(
  (JSON.parse(readFileSync(path.join(PACKAGE, 'package.json'), 'utf8')) as { version: string }).version
);

/** Where what the commands start and load lies: in the package, or in the repository. */
export const PLACES = {
  server: path.join(ROOT, isPackage ? 'server/server.mjs' : 'web/server.mjs'),
  /** Folder of what `run` has Node.js load first. */
  preload: path.join(ROOT, isPackage ? 'run' : 'run/build'),
  /** What sends a load run, in a thread of its own. */
  sender: path.join(ROOT, isPackage ? 'load/sender.cjs' : 'load/build/sender.cjs'),
  recordings: path.join(ROOT, isPackage ? 'demo/recordings' : 'workload/recordings'),
  sources: path.join(ROOT, isPackage ? 'demo/src' : 'workload/src')
};
