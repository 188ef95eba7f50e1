// `npm run bench`: the benchmarks behind docs/performance.md; ratios from one run.
import { readdirSync } from 'node:fs';
import path from 'node:path';
import { ensureBuild, ensurePackages, ROOT, run } from './prepare.mjs';

ensurePackages();
ensureBuild();
const wanted = process.argv[2] ?? '';
for (const file of readdirSync(path.join(ROOT, 'bench')).filter(
  (name) => name.endsWith('.bench.ts') && name.includes(wanted)
)) {
  // Its paths name what of the application is measured.
  run(process.execPath, ['--import', 'tsx', path.join('bench', file)], {
    env: { ...process.env, TSX_TSCONFIG_PATH: path.join(ROOT, 'bench/tsconfig.json') }
  });
}
