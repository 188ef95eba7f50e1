/**
 * Records what real processes leave behind as they crash. Run: node recordings/crashes/record.mjs   (needs node, javac, go, python3, ruby and php)
 * The environment of the machine is left out; so is all of a JVM’s log but what tells of the crash.
 */
import { execFileSync, spawnSync } from 'node:child_process';
import { cpSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import { gzipSync } from 'node:zlib';

const HERE = path.dirname(fileURLToPath(import.meta.url));
const base = mkdtempSync(path.join(os.tmpdir(), 'crashes-'));
const home = path.join(base, 'srv');
cpSync(path.join(HERE, 'programs'), home, { recursive: true });
const rows = {};

const run = (command, args, env = {}) =>
  spawnSync(command, args, {
    cwd: home,
    encoding: 'utf8',
    env: { PATH: process.env.PATH, LANG: 'C.UTF-8', ...env }
  });
const shortened = (text) => text.replaceAll(home, '/srv/quillhaven');
const keep = (name, { stderr, status, signal }, more = {}) =>
  (rows[name] = { stderr: shortened(stderr), exitCode: status, signal: signal ?? '', ...more });
/** The one file of a folder that a process wrote. */
const written = (pattern) => {
  const name = readdirSync(home).find((file) => pattern.test(file));
  if (!name) return '';
  const text = readFileSync(path.join(home, name), 'utf8');
  rmSync(path.join(home, name));
  return shortened(text);
};

for (const name of ['throw', 'oom', 'deep', 'abort']) {
  const ended = run('node', [
    '--report-on-fatalerror',
    '--report-uncaught-exception',
    '--max-old-space-size=40',
    `${name}.cjs`
  ]);
  const report = written(/^report\..*\.json$/);
  const document = report && {
    ...JSON.parse(report),
    environmentVariables: {},
    sharedObjects: [],
    libuv: []
  };
  keep(`node-${name}`, ended, { report: document ? JSON.stringify(document, null, 2) : '' });
}
execFileSync('javac', ['Tide.java'], { cwd: home, stdio: 'ignore' });
const JVM = ['-Xmx32m', '-Xss512k', '-XX:+UseSerialGC', '-XX:-CreateCoredumpOnCrash'];
/** Up to the registers, and the parts on heap, memory and limits. */
const cutLog = (log) =>
  log &&
  [
    log.slice(0, log.search(/^(?:Registers:|-+ {2}P R O C E S S)/m)),
    ...[
      /^Heap:\n[\s\S]*?\n\n/m,
      /^ Heap Max Capacity: .*\n/m,
      /^Environment Variables:\n[\s\S]*?\n\n/m,
      /^rlimit .*\n/m,
      /^Process Memory:\n[\s\S]*?\n\n/m
    ].map((part) => part.exec(log)?.[0] ?? ''),
    'END.\n'
  ].join('');
for (const name of ['throw', 'oom', 'deep', 'crash', 'pool']) {
  const ended = run('java', [...JVM, 'Tide', name]);
  keep(`jvm-${name}`, ended, { report: cutLog(written(/^hs_err_pid.*\.log$/)) });
}
keep('jvm-crash-on-oom', run('java', [...JVM, '-XX:+CrashOnOutOfMemoryError', 'Tide', 'oom']), {
  report: cutLog(written(/^hs_err_pid.*\.log$/))
});
keep('jvm-exit-on-oom', run('java', [...JVM, '-XX:+ExitOnOutOfMemoryError', 'Tide', 'oom']));
execFileSync('go', ['build', '-o', 'tug', 'tug.go'], {
  cwd: home,
  env: { ...process.env, GO111MODULE: 'off' }
});
for (const name of ['panic', 'nil', 'deep', 'lock', 'map']) keep(`go-${name}`, run('./tug', [name]));
for (const name of ['throw', 'deep', 'oom', 'segv', 'thread'])
  keep(`python-${name}`, run('python3', ['pilot.py', name]));
for (const name of ['throw', 'deep']) keep(`ruby-${name}`, run('ruby', ['quay.rb', name]));
for (const name of ['throw', 'oom'])
  keep(`php-${name}`, run('php', ['-d', 'display_errors=stderr', 'buoy.php', name]));
writeFileSync(path.join(HERE, 'crashes.json.gz'), gzipSync(JSON.stringify(rows), { level: 9 }));
rmSync(base, { recursive: true, force: true });
for (const [name, { stderr, exitCode, signal, report }] of Object.entries(rows))
  console.log(name, exitCode, signal, stderr.length, report?.length ?? '');
