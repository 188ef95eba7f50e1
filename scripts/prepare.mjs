// What a bare clone still needs before it can run: packages, a browser for the tests, a build.
import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { fileURLToPath } from 'node:url';

export const ROOT = fileURLToPath(new URL('..', import.meta.url));
const STAMPS = path.join(ROOT, '.tmp');

export function say(text) {
  console.log(`· ${text}`);
}

/** Runs a command with its output shown; ends this process where it fails. */
export function run(command, args, options = {}) {
  const { status } = spawnSync(command, args, { cwd: ROOT, stdio: 'inherit', ...options });
  if (status !== 0) {
    console.error(`${command} ${args.join(' ')} failed.`);
    process.exit(status ?? 1);
  }
}

/** Installs the packages the lock file names, unless they are there. */
export function ensurePackages() {
  const [major, minor] = process.versions.node.split('.').map(Number);
  if (major < 20 || (major === 20 && minor < 19)) {
    console.error(`Tromix needs Node.js 20.19 or newer; this is ${process.versions.node}.`);
    process.exit(1);
  }
  const lock = path.join(ROOT, 'package-lock.json');
  const installed = path.join(ROOT, 'node_modules/.package-lock.json');
  if (existsSync(installed) && statSync(installed).mtimeMs >= statSync(lock).mtimeMs - 1000) return;
  if (existsSync(installed) && readStamp('packages') === hashOf([lock])) return;
  say('Installing packages (npm ci)');
  run('npm', ['ci', '--no-audit', '--no-fund', '--loglevel=error']);
  writeStamp('packages', hashOf([lock]));
}

/** Names what the web application and the load driver are built from: other sources, another name. */
export function sourcesStamp() {
  const files = ['core/src', 'collect/src', 'load/src', 'web/src', 'web/static'].flatMap((folder) =>
    filesBelow(path.join(ROOT, folder))
  );
  files.push(
    ...['web/vite.config.ts', 'web/svelte.config.js', 'web/bundled-text-plugin.ts', 'package-lock.json'].map(
      (file) => path.join(ROOT, file)
    )
  );
  return hashOf(files);
}

/** Builds the web application where its sources changed since the last build. */
export function ensureBuild() {
  const stamp = sourcesStamp();
  const built = ['web/build/handler.js', 'load/build/sender.cjs'].every((file) =>
    existsSync(path.join(ROOT, file))
  );
  if (built && readStamp('build') === stamp) return;
  say('Building the web application');
  for (const workspace of ['web', 'load'])
    run('npm', ['run', 'build', '-w', workspace, '--silent'], { stdio: ['ignore', 'ignore', 'inherit'] });
  writeStamp('build', stamp);
}

const CHROMIUM = '/usr/bin/chromium';

/** Installs Debian's Chromium where it is missing and the package manager may be used. */
export function ensureChromium() {
  if (existsSync(process.env.CHROMIUM ?? CHROMIUM)) return;
  say('Chromium is missing: installing it from Debian’s packages');
  const quiet = { stdio: ['ignore', 'ignore', 'inherit'] };
  const installed =
    spawnSync('apt-get', ['update', '-qq'], quiet).status === 0 &&
    spawnSync('apt-get', ['install', '-y', '-qq', '--no-install-recommends', 'chromium'], quiet).status === 0;
  if (installed && existsSync(CHROMIUM)) return;
  console.error(
    'Chromium could not be installed here. Install it yourself and set CHROMIUM to its path; the end-to-end tests need it.'
  );
  process.exit(1);
}

function filesBelow(folder) {
  return readdirSync(folder, { withFileTypes: true, recursive: true })
    .filter((entry) => entry.isFile() && !entry.name.endsWith('.test.ts'))
    .map((entry) => path.join(entry.parentPath ?? entry.path, entry.name))
    .sort();
}

function hashOf(files) {
  const hash = createHash('sha256');
  for (const file of files)
    hash.update(path.relative(ROOT, file)).update('\0').update(readFileSync(file)).update('\0');
  return hash.digest('hex');
}

function readStamp(name) {
  const file = path.join(STAMPS, `${name}.stamp`);
  return existsSync(file) ? readFileSync(file, 'utf8') : '';
}

function writeStamp(name, text) {
  mkdirSync(STAMPS, { recursive: true });
  writeFileSync(path.join(STAMPS, `${name}.stamp`), text);
}
