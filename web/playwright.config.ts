import { defineConfig } from '@playwright/test';
import { BARE, BESIDE, DEMO, EMPTY, FLEET_PORT, LIVE, LOCKED } from './e2e/servers';

const serve = (name: string, { port }: { port: number }, env: Record<string, string>) => ({
  command: `node e2e/serve.mjs ${name}`,
  port,
  env: { PORT: String(port), TROMIX_SETTLE_MS: '300', ...env },
  reuseExistingServer: false,
  timeout: 180_000
});

/** These look at the demo, and change nothing that others look at: they run beside the rest. */
const LOOKING = [
  'assistant',
  'calls',
  'compare',
  'heap',
  'overview',
  'package',
  'profiles',
  'story',
  'tables',
  'threads',
  'time',
  'views'
].map((name) => `**/${name}.spec.ts`);

/** Stories of services that run beside a server of their own: most of their time they wait for minutes to pass. */
const LIVING = ['functions', 'profile-story', 'watches', 'whole-case'].map((name) => `**/${name}.spec.ts`);

export default defineConfig({
  testDir: 'e2e',
  outputDir: '../test-results',
  // Patience, not a promise: a test machine that gives its cores away is three times as slow.
  timeout: 120_000,
  expect: { timeout: 20_000 },
  workers: 3,
  projects: [
    { name: 'looking', testMatch: LOOKING, workers: 1 },
    { name: 'living', testMatch: LIVING, workers: 1 },
    { name: 'changing', testIgnore: [...LOOKING, ...LIVING], workers: 1 }
  ],
  // Where no page opens at all, a build need not wait for each of them.
  maxFailures: process.env.CI ? 15 : 0,
  reporter: [
    ['list'],
    ['json', { outputFile: process.env.PLAYWRIGHT_JSON_OUTPUT_NAME ?? '../.tmp/reports/e2e.json' }]
  ],
  use: {
    baseURL: DEMO.url,
    viewport: { width: 1280, height: 800 },
    launchOptions: {
      executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium',
      args: [
        '--headless',
        '--no-sandbox',
        '--disable-gpu',
        '--disable-quic',
        '--no-first-run',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync'
      ]
    }
  },
  webServer: [
    serve('demo', DEMO, {
      TROMIX_MCP: '1',
      TROMIX_DEMO: '../workload/recordings',
      TROMIX_SOURCES: '../workload/src'
    }),
    serve('empty', EMPTY, {}),
    serve('bare', BARE, {}),
    serve('beside', BESIDE, { TROMIX_OTLP_PROFILES: '1', TROMIX_SOURCES: '../workload/src' }),
    serve('live', LIVE, {
      TROMIX_OBSERVE: '1',
      TROMIX_SOURCES: '../workload/src',
      TROMIX_INSPECT: `127.0.0.1:${FLEET_PORT + 100}-${FLEET_PORT + 106}`
    }),
    serve('locked', LOCKED, {
      TROMIX_TOKEN: 'harbour-master-of-quillhaven',
      TROMIX_INGEST_TOKEN: 'gauge-of-the-west-quay'
    })
  ]
});
