/**
 * Records every scenario: starts the service anew under the official auto-instrumentation, sends its requests, and writes what was exported
 * (OTLP, protobuf; the bodies of all exports one after another, which the format reads as one) to `<scenario>.otlp.gz`.
 *
 * Needs PostgreSQL, MariaDB, Redis and RabbitMQ on loopback, with a user and database `quay` (password `quay`), and `npm install` here.
 * Usage: node record.mjs [scenario …]
 */
import { spawn } from 'node:child_process';
import { on, once } from 'node:events';
import { writeFileSync } from 'node:fs';
import { createServer } from 'node:http';
import path from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { gzipSync } from 'node:zlib';

const HERE = import.meta.dirname;
const PORT = 4711;
const COLLECTOR = 4712;

const get = (to) => ({ to });
const post = (to, body) => ({ to, method: 'POST', body });
const ask = (query) => post('/graphql', { query });
const times = (count, one) => Array.from({ length: count }, () => one);

/** What is sent: each list at once, the lists one after another. The first request warms the service up. */
const SCENARIOS = {
  loops: [['/each'], ['/all'], ['/pairs'], ['/turns'], ['/nested'], ['/spans']].map((list) => list.map(get)),
  'no-loops': [
    ['/batches'],
    ['/in-lists'],
    ['/pages'],
    ['/key-pages'],
    ['/numbers'],
    ['/signs'],
    ['/settings']
  ].map((list) => list.map(get)),
  graphql: [
    [ask('{ vessels(count: 6) { name slowCalls { due } } }')],
    [ask('{ vessels(count: 30) { name calls { due } } }')],
    [ask('{ vessels(count: 30) { name loadedCalls { due } } }')]
  ],
  'handed-over': [[get('/handed-over')], [get('/after')], [get('/stream')]],
  orm: [[get('/orm')], [get('/orm-joined')], [get('/builder')]],
  pool: [times(8, get('/busy'))],
  lock: [times(3, post('/claim'))],
  mariadb: [[post('/cargo')]],
  redis: [[get('/tides')]],
  rabbitmq: [[post('/notices')]],
  remote: [
    [get('/roster')],
    [get('/timeout')],
    [get('/patient')],
    [get('/wp/login'), get('/.well-known/none'), get('/anything/17')]
  ],
  connections: [[get('/dues')]],
  start: [[get('/each')]],
  fastify: [
    [get('/mapped/3')],
    [get('/joined')],
    [post('/notes', { text: 'all fast' })],
    [get('/nothing/here')]
  ]
};

/** Settings of some scenarios. */
const SETTINGS = {
  pool: { POOL: '2' },
  connections: { OTEL_NODE_ENABLED_INSTRUMENTATIONS: 'http,dns,net' },
  start: { OTEL_NODE_ENABLED_INSTRUMENTATIONS: 'http,express,pg,ioredis,fs,dns,net,undici' }
};

/** Scenarios of another program. */
const PROGRAMS = { fastify: 'wharf.cjs', connections: 'jetty.cjs' };

async function record(name, prepare) {
  const bodies = [];
  const collector = createServer((request, response) => {
    const parts = [];
    request.on('data', (part) => parts.push(part));
    request.on('end', () => {
      if (request.url === '/v1/traces') bodies.push(Buffer.concat(parts));
      response.setHeader('content-type', 'application/x-protobuf').end();
    });
  }).listen(COLLECTOR, '127.0.0.1');
  const program = path.join(HERE, process.env.PROGRAM ?? PROGRAMS[name] ?? 'harbour.cjs');
  const service = spawn(
    'node',
    ['--require', '@opentelemetry/auto-instrumentations-node/register', program],
    {
      cwd: HERE,
      env: {
        ...process.env,
        PORT: String(PORT),
        ...(prepare ? { PREPARE: '1', OTEL_SDK_DISABLED: 'true' } : {}),
        OTEL_SERVICE_NAME: 'harbour',
        OTEL_TRACES_EXPORTER: 'otlp',
        OTEL_METRICS_EXPORTER: 'none',
        OTEL_LOGS_EXPORTER: 'none',
        OTEL_NODE_RESOURCE_DETECTORS: 'env',
        OTEL_EXPORTER_OTLP_PROTOCOL: 'http/protobuf',
        OTEL_EXPORTER_OTLP_ENDPOINT: `http://127.0.0.1:${COLLECTOR}`,
        OTEL_BSP_SCHEDULE_DELAY: '300',
        ...SETTINGS[name]
      },
      stdio: ['ignore', 'pipe', 'inherit']
    }
  );
  for await (const [text] of on(service.stdout, 'data')) if (String(text).includes('ready')) break;
  for (const together of [[get('/pilots/1')], ...(prepare ? [] : SCENARIOS[name])]) {
    await Promise.all(
      together.map(async ({ to, method = 'GET', body }) => {
        const answer = await fetch(`http://localhost:${PORT}${to}`, {
          method,
          headers: body ? { 'content-type': 'application/json' } : {},
          body: body && JSON.stringify(body)
        });
        await answer.arrayBuffer();
        if (answer.status >= 500) throw new Error(`${to}: ${answer.status}`);
      })
    );
    await pause(400);
  }
  await pause(1500);
  // The instrumentation takes SIGTERM for itself; what it has is exported by now.
  service.kill('SIGKILL');
  await once(service, 'exit');
  collector.close();
  if (prepare) return;
  const packed = gzipSync(Buffer.concat(bodies), { level: 9 });
  writeFileSync(path.join(HERE, `${name}.otlp.gz`), packed);
  console.log(`${name}: ${packed.length} bytes`);
}

const names = process.argv.length > 2 ? process.argv.slice(2) : Object.keys(SCENARIOS);
// The jetty needs no database.
if (names.some((name) => PROGRAMS[name] !== 'jetty.cjs')) await record('loops', true);
for (const name of names) await record(name, false);
