// `npm test`: everything that is missing is installed, then the unit tests, the attacks on the built server and the end-to-end tests run.
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
const attackReport = path.join(reports, 'attacks.json');
const e2eReport = path.join(reports, 'e2e.json');
const bin = (name) => path.join(ROOT, 'node_modules/.bin', name);

const vitest = (report, ...args) =>
  spawnSync(
    bin('vitest'),
    ['run', '--reporter=default', '--reporter=json', `--outputFile.json=${report}`, ...args],
    { cwd: ROOT, stdio: 'inherit' }
  );
const unit = vitest(unitReport);
const attacks = vitest(attackReport, '--config', 'vitest.attacks.config.ts');
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
const attackResult = read(attackReport);
const e2eResult = read(e2eReport);
const passed =
  (unitResult?.numPassedTests ?? 0) +
  (attackResult?.numPassedTests ?? 0) +
  (e2eResult?.stats.expected ?? 0) +
  (e2eResult?.stats.flaky ?? 0);
const failed =
  (unitResult?.numFailedTests ?? (unit.status === 0 ? 0 : 1)) +
  (attackResult?.numFailedTests ?? (attacks.status === 0 ? 0 : 1)) +
  (e2eResult?.stats.unexpected ?? (e2e.status === 0 ? 0 : 1));
console.log(`${passed} passed, ${failed} failed`);
process.exit(unit.status === 0 && attacks.status === 0 && e2e.status === 0 ? 0 : 1);
