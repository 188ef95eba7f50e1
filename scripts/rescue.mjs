// `npm run rescue -- DATABASE`: keeps a copy of a damaged database and saves what can still be read of it. Stop the server first.
import { spawnSync } from 'node:child_process';
import path from 'node:path';
import { ensurePackages, ROOT } from './prepare.mjs';

ensurePackages();
const { status } = spawnSync(
  path.join(ROOT, 'node_modules/.bin/tsx'),
  [path.join(ROOT, 'scripts/rescue.ts'), ...process.argv.slice(2)],
  { stdio: 'inherit' }
);
process.exit(status ?? 1);
