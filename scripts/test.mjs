// `npm test`: everything that is missing is installed, then the unit tests and the end-to-end tests run.
import { spawnSync } from 'node:child_process';
import { mkdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { ensureBuild, ensureChromium, ensurePackages, ROOT } from './prepare.mjs';

ensurePackages();
ensureChromium();
ensureBuild();
const reports = path.join(ROOT, '.tmp/reports');
mkdirSync(reports, { recursive: true });
const unitReport = path.join(reports, 'unit.json');
const e2eReport = path.join(reports, 'e2e.json');
const bin = (name) => path.join(ROOT, 'node_modules/.bin', name);

const unit = spawnSync(
  bin('vitest'),
  ['run', '--reporter=default', '--reporter=json', `--outputFile.json=${unitReport}`],
  { cwd: ROOT, stdio: 'inherit' }
);
const e2e = spawnSync(bin('playwright'), ['test', '-c', 'web/playwright.config.ts'], {
  cwd: ROOT,
  stdio: 'inherit',
  env: { ...process.env, PLAYWRIGHT_JSON_OUTPUT_NAME: e2eReport }
});

const read = (file) => {
  try {
    return JSON.parse(readFileSync(file, 'utf8'));
  } catch {
    return null;
  }
};
const unitResult = read(unitReport);
const e2eResult = read(e2eReport);
const passed =
  (unitResult?.numPassedTests ?? 0) + (e2eResult?.stats.expected ?? 0) + (e2eResult?.stats.flaky ?? 0);
const failed =
  (unitResult?.numFailedTests ?? (unit.status === 0 ? 0 : 1)) +
  (e2eResult?.stats.unexpected ?? (e2e.status === 0 ? 0 : 1));
console.log(`${passed} passed, ${failed} failed`);
process.exit(unit.status === 0 && e2e.status === 0 ? 0 : 1);
