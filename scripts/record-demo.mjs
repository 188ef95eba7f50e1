// `npm run record-demo`: records the demo set anew from a real run (about 23 minutes).
import path from 'node:path';
import { ensurePackages, ROOT, run } from './prepare.mjs';

ensurePackages();
for (const part of ['src/record.ts', 'src/record-failures.ts', 'src/record-hosts.ts'])
  run(process.execPath, ['run.mjs', part], { cwd: path.join(ROOT, 'workload') });
