import { spawnSync } from 'node:child_process';
import { expect, test } from 'vitest';

/** The name under which another process knows the present build. */
function nameElsewhere(): string {
  const script = "import('./svelte.config.js').then((file) => console.log(file.default.kit.version?.name))";
  return spawnSync(process.execPath, ['-e', script], {
    cwd: import.meta.dirname,
    encoding: 'utf8'
  }).stdout.trim();
}

test('a build and a sync that runs beside it give the application one name', () => {
  const name = nameElsewhere();
  expect(name).toMatch(/^[0-9a-f]{64}$/);
  expect(nameElsewhere()).toBe(name);
});
