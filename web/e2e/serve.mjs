// Serves the built application for the tests, each time with fresh data: `node e2e/serve.mjs <name>`; PORT and settings by environment.
import { rmSync } from 'node:fs';
import { fileURLToPath } from 'node:url';

const data = fileURLToPath(new URL(`../../.tmp/e2e-${process.argv[2]}`, import.meta.url));
rmSync(data, { recursive: true, force: true });
process.env.TROMIX_DATA = data;
await import('../server.mjs');
