// `npm run soak`: the long attacks on the built server, on this machine alone; KILLS=40 says how often it is killed at each settle time.
import { spawnSync } from 'node:child_process';
import path from 'node:path';
import { ensureBuild, ensurePackages, ROOT } from './prepare.mjs';

ensurePackages();
ensureBuild();
const { status } = spawnSync(
  path.join(ROOT, 'node_modules/.bin/vitest'),
  ['run', '--config', 'vitest.attacks.config.ts', ...process.argv.slice(2)],
  { cwd: ROOT, stdio: 'inherit', env: { ...process.env, SOAK: '1' } }
);
process.exit(status ?? 1);
