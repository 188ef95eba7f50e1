// `npm run record-demo`: records the demo set anew from a real run (about 17 minutes).
import path from 'node:path';
import { ensurePackages, ROOT, run } from './prepare.mjs';

ensurePackages();
run(process.execPath, ['run.mjs', 'src/record.ts'], { cwd: path.join(ROOT, 'workload') });
