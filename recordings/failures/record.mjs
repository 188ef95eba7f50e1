/**
 * Records what real runtimes write of exceptions: the same programs, four times each, with other values, with their lines moved, in other folders and called by other ways.
 * Run: node recordings/failures/record.mjs   (needs node, python3, javac, go, ruby, php, chromium and firefox-esr)
 * A row is [runtime, label, variant, type, message, stack]: rows of one runtime and label are one failure, by the hand that wrote the programs.
 */
import { execFileSync, spawn } from 'node:child_process';
import { cpSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import http from 'node:http';
import os from 'node:os';
import path from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';
import { gzipSync } from 'node:zlib';
import { build } from 'esbuild';

const HERE = path.dirname(fileURLToPath(import.meta.url));
const rows = [];
const MOVED = ['', '\n\n', '', '\n'.repeat(30)];
const FOLDERS = ['srv/quillhaven', 'srv/quillhaven', 'home/deploy/releases/42', 'opt/app'];
const base = mkdtempSync(path.join(os.tmpdir(), 'failures-'));

/** The programs as a variant has them. */
function place(variant) {
  const root = path.join(base, String(variant), FOLDERS[variant]);
  cpSync(path.join(HERE, 'programs'), root, { recursive: true });
  for (const name of readdirSync(path.join(root, 'berths'))) {
    const file = path.join(root, 'berths', name);
    const text = readFileSync(file, 'utf8');
    const head = /^(?:<\?php|package .*)\n/.exec(text)?.[0] ?? '';
    writeFileSync(file, head + MOVED[variant] + text.slice(head.length));
  }
  return root;
}
const lines = (command, args, cwd) =>
  execFileSync(command, args, { cwd, encoding: 'utf8', maxBuffer: 1e9, stdio: ['ignore', 'pipe', 'ignore'] })
    .trim()
    .split('\n')
    .map((line) => JSON.parse(line));

/** Runs the JavaScript in a browser, which posts what it caught. */
async function browser(name, command, args, root, variant, bundle) {
  let done;
  const posted = new Promise((resolve) => (done = resolve));
  const server = http.createServer((request, response) => {
    if (request.method === 'POST') {
      let body = '';
      request.on('data', (part) => (body += part)).on('end', () => (response.end(), done(JSON.parse(body))));
      return;
    }
    const html = `<script type="module">import { run } from '${bundle ?? '/berths/plan.mjs'}';
      const rows = []; await run(${variant}, (...row) => rows.push(row)); await fetch('/', { method: 'POST', body: JSON.stringify(rows) });</script>`;
    if (request.url === '/') response.writeHead(200, { 'content-type': 'text/html' }).end(html);
    else
      try {
        const script = readFileSync(path.join(root, request.url));
        response.writeHead(200, { 'content-type': 'text/javascript' }).end(script);
      } catch {
        response.writeHead(404).end();
      }
  });
  await new Promise((resolve) => server.listen(0, '127.0.0.1', resolve));
  const child = spawn(command, [...args, `http://127.0.0.1:${server.address().port}/`], {
    stdio: 'ignore',
    env: { ...process.env, HOME: base }
  });
  for (const [label, type, message, stack] of await posted)
    rows.push([name, label, variant, type, message, stack]);
  child.kill('SIGKILL');
  server.close();
}

for (let variant = 0; variant < 4; variant++) {
  const root = place(variant);
  const { run } = await import(pathToFileURL(path.join(root, 'berths/plan.mjs')).href);
  await run(variant, (label, type, message, stack) =>
    rows.push(['node', label, variant, type, message, stack])
  );
  rows.push(...lines('python3', ['main.py', String(variant)], root));
  execFileSync('javac', ['-d', 'classes', 'berths/Plan.java'], { cwd: root });
  rows.push(...lines('java', ['-Xss512k', '-cp', 'classes', 'haven.berths.Plan', String(variant)], root));
  rows.push(...lines('go', ['run', 'berths/plan.go', String(variant)], root));
  rows.push(...lines('ruby', ['berths/plan.rb', String(variant)], root));
  rows.push(...lines('php', ['berths/plan.php', String(variant)], root));
  await browser(
    'chromium',
    'chromium',
    ['--headless', '--no-sandbox', '--disable-gpu', `--user-data-dir=${base}/c${variant}`],
    root,
    variant
  );
  mkdirSync(path.join(base, `f${variant}`));
  await browser(
    'firefox',
    'firefox-esr',
    ['--headless', '--no-remote', '--profile', `${base}/f${variant}`],
    root,
    variant
  );
}

// The same program built for a browser, and minified, with its map.
const built = path.join(base, 'built');
for (const minify of [false, true])
  await build({
    entryPoints: [path.join(HERE, 'programs/berths/plan.mjs')],
    outfile: path.join(built, minify ? 'min.js' : 'plain.js'),
    bundle: true,
    format: 'esm',
    minify,
    sourcemap: 'external'
  });
for (const [variant, name] of [
  [0, 'min.js'],
  [1, 'min.js'],
  [0, 'plain.js']
].entries())
  await browser(
    `built ${name[1]}`,
    'chromium',
    ['--headless', '--no-sandbox', '--disable-gpu', `--user-data-dir=${base}/b${variant}`],
    built,
    name[0],
    `/${name[1]}`
  );
const maps = Object.fromEntries(
  ['min.js', 'plain.js'].map((name) => [name, readFileSync(path.join(built, `${name}.map`), 'utf8')])
);
for (const row of rows) row[5] = row[5].replaceAll(base, '');
writeFileSync(path.join(HERE, 'stacks.json.gz'), gzipSync(JSON.stringify({ rows, maps }), { level: 9 }));
rmSync(base, { recursive: true, force: true });
console.log(`${rows.length} stacks of ${new Set(rows.map(([runtime]) => runtime)).size} runtimes and builds`);
process.exit(0);
