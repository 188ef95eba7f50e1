// `npm run bench`: the benchmarks behind docs/performance.md; ratios from one run.
import { readdirSync } from 'node:fs';
import path from 'node:path';
import { ensureBuild, ensurePackages, ROOT, run } from './prepare.mjs';

ensurePackages();
ensureBuild();
run('npm', ['run', '--silent', 'build', '-w', 'load']);
const wanted = process.argv[2] ?? '';
for (const file of readdirSync(path.join(ROOT, 'bench')).filter(
  (name) => name.endsWith('.bench.ts') && name.includes(wanted)
)) {
  // A collection of the bench’s own heap would take a core from the driver it measures.
  const flags = file.startsWith('load') ? ['--no-memory-reducer'] : [];
  // Its paths name what of the application is measured.
  run(process.execPath, [...flags, '--import', 'tsx', path.join('bench', file)], {
    env: { ...process.env, TSX_TSCONFIG_PATH: path.join(ROOT, 'bench/tsconfig.json') }
  });
}
