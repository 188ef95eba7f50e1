// `npm run package`: one tarball that installs the command with all it needs: dist/tromix-VERSION.tgz.
import { execFileSync } from 'node:child_process';
import { chmodSync, cpSync, mkdirSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { build } from 'esbuild';
import { licencesOf, packagesBelow, packagesIn } from './licences.mjs';
import { ensureBuild, ensurePackages, ROOT, run, say } from './prepare.mjs';

// A server may be running from the build (the tests’ does): `--built` takes it as it is.
if (!process.argv.includes('--built')) {
  ensurePackages();
  ensureBuild();
}

const DIST = path.join(ROOT, 'dist');
const OUT = path.join(DIST, 'tromix');
/** Packages with native parts: they are installed with the package, for the machine it is installed on. */
const NATIVE = ['libsql', '@libsql/client'];
const from = (...parts) => path.join(ROOT, ...parts);
const readJson = (file) => JSON.parse(readFileSync(file, 'utf8'));

rmSync(DIST, { recursive: true, force: true });
mkdirSync(OUT, { recursive: true });

/** Bundles for Node; packages that are CommonJS find `require`. */
async function bundle(entryPoints, outdir) {
  const { metafile } = await build({
    entryPoints,
    outdir,
    bundle: true,
    splitting: true,
    format: 'esm',
    platform: 'node',
    target: 'node20',
    outExtension: { '.js': '.mjs' },
    external: [...NATIVE, 'bufferutil', 'utf-8-validate'],
    alias: { $lib: from('web/src/lib') },
    banner: {
      js: "import { createRequire as requireFrom } from 'node:module'; const require = requireFrom(import.meta.url);"
    },
    metafile: true,
    minifySyntax: true,
    legalComments: 'none',
    logLevel: 'error',
    absWorkingDir: ROOT
  });
  return Object.keys(metafile.inputs);
}

const inputs = [
  ...(await bundle({ tromix: from('cli/src/start.ts') }, path.join(OUT, 'bin'))),
  ...(await bundle({ handler: from('web/build/handler.js') }, path.join(OUT, 'server/build')))
];
chmodSync(path.join(OUT, 'bin/tromix.mjs'), 0o755);
// What programs load first is installed with its packages, not bundled: their hooks are files of their own.
run('npm', ['run', 'build', '-w', 'run', '--silent'], { stdio: ['ignore', 'ignore', 'inherit'] });
cpSync(from('run/build'), path.join(OUT, 'run'), { recursive: true });
run('npm', ['run', 'build', '-w', 'load', '--silent'], { stdio: ['ignore', 'ignore', 'inherit'] });
cpSync(from('load/build/sender.cjs'), path.join(OUT, 'load/sender.cjs'));

// The handler is found under the name the server imports, beside the files it serves.
renameSync(path.join(OUT, 'server/build/handler.mjs'), path.join(OUT, 'server/build/handler.js'));
for (const [source, target] of [
  ['web/server.mjs', 'server/server.mjs'],
  ['web/grpc-answer.mjs', 'server/grpc-answer.mjs'],
  ['web/build/client', 'server/build/client'],
  ['web/drizzle', 'server/drizzle'],
  ['workload/recordings', 'demo/recordings'],
  ['workload/src', 'demo/src'],
  ['README.md', 'README.md'],
  ['LICENSE', 'LICENSE']
])
  cpSync(from(source), path.join(OUT, target), {
    recursive: true,
    filter: (file) => !/\.test\.ts$/.test(file)
  });

const versions = {
  ...readJson(from('workload/package.json')).dependencies,
  ...readJson(from('web/package.json')).dependencies
};
const native = Object.fromEntries(NATIVE.map((name) => [name, versions[name]]));
const { version, description, license, engines } = readJson(from('package.json'));
writeFileSync(
  path.join(OUT, 'package.json'),
  `${JSON.stringify(
    {
      name: 'tromix',
      version,
      description,
      license,
      engines,
      type: 'module',
      bin: { tromix: 'bin/tromix.mjs' },
      dependencies: { ...native, ...readJson(from('run/package.json')).dependencies }
    },
    null,
    2
  )}\n`
);
// What the browser's part is made of, the build does not tell: all that its package depends on.
const bundled = new Set([...packagesIn(inputs), ...packagesBelow('web'), ...packagesBelow('collect')]);
for (const name of NATIVE) bundled.delete(`node_modules/${name}`);
writeFileSync(path.join(OUT, 'THIRD-PARTY-LICENCES.txt'), licencesOf([...bundled].sort()));

const [{ filename, unpackedSize }] = JSON.parse(
  execFileSync('npm', ['pack', '--json', '--pack-destination', DIST], { cwd: OUT, encoding: 'utf8' })
);
say(`${path.relative(ROOT, path.join(DIST, filename))}, ${(unpackedSize / 1e6).toFixed(1)} MB unpacked`);
