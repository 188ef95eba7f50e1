import http from 'node:http';
import https from 'node:https';
import net from 'node:net';
import { afterEach, describe, expect, it } from 'vitest';
import { readPlan, type LoadPlanInput } from '@tromix/core/load/plan';
import { FAULTS, type Sample } from '@tromix/core/load/samples';
import { sendRun, type Ended } from './send';
import { readTargets, refusedTarget } from './targets';

const open: net.Server[] = [];
const sockets = new Set<net.Socket>();
afterEach(async () => {
  for (const socket of sockets) socket.destroy();
  sockets.clear();
  for (const server of open.splice(0)) await new Promise((resolve) => server.close(resolve));
});
async function listen<S extends net.Server>(server: S): Promise<{ server: S; port: number }> {
  open.push(server);
  server.on('connection', (socket) => sockets.add(socket));
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  return { server, port: (server.address() as net.AddressInfo).port };
}
const serve = async (answer: http.RequestListener): Promise<string> =>
  `http://127.0.0.1:${(await listen(http.createServer(answer))).port}`;

/** Runs a plan to its end. */
async function run(
  input: LoadPlanInput,
  signal = new AbortController().signal
): Promise<{ samples: Sample[]; ended: Ended; faults: string[] }> {
  const read = readPlan(input);
  if (!read.ok) throw new Error(read.message);
  const samples: Sample[] = [];
  const ended = await sendRun({
    key: '00000000000000aa',
    plan: read.plan,
    targets: [],
    onSample: (sample) => samples.push(sample),
    signal
  });
  return { samples, ended, faults: samples.map(({ fault }) => FAULTS[fault]) };
}

describe('a load run', () => {
  // Common practice: 10 users × 10 loops = 100 samples.
  it('sends users × loops × steps requests, each with a trace of its own', async () => {
    const seen: string[] = [];
    const url = await serve((request, response) => {
      seen.push(`${request.method} ${request.url} ${request.headers.traceparent}`);
      response.end('{}');
    });
    const { samples, ended } = await run({
      steps: [{ url: `${url}/board` }, { url: `${url}/entries`, method: 'POST', body: '{"pilot":{1..9}}' }],
      users: 10,
      loops: 5
    });
    expect(samples.length).toBe(100);
    expect(ended.end).toBe('done');
    expect(samples.every(({ fault, status, bytes }) => fault === 0 && status === 200 && bytes === 2)).toBe(
      true
    );
    expect(new Set(seen.map((line) => line.split(' ')[2])).size).toBe(100);
    expect(seen.every((line) => / 00-00000000000000aa[0-9a-f]{16}-[0-9a-f]{16}-01$/.test(line))).toBe(true);
  });

  it('names no trace where it stands for people: their requests begin traces of their own', async () => {
    let named: unknown = 'not asked';
    const url = await serve((request, response) => {
      named = request.headers.traceparent;
      response.end();
    });
    const read = readPlan({ steps: [{ url }] });
    if (read.ok)
      await sendRun({
        key: '',
        plan: read.plan,
        targets: [],
        onSample: () => undefined,
        signal: new AbortController().signal
      });
    expect(named).toBeUndefined();
  });

  // Common practice: with a ramp-up of 1 s, 5 users start 0.2 s apart.
  it('lets users join over the ramp-up', async () => {
    const url = await serve((_, response) => response.end());
    const { samples } = await run({ steps: [{ url }], users: 5, rampUpSeconds: 1 });
    const starts = samples.map(({ intendedUs }) => intendedUs / 1e6).sort();
    expect(starts).toEqual([0, 0.2, 0.4, 0.6, 0.8]);
    for (const { lateUs } of samples) expect(lateUs).toBeLessThan(200_000);
  });

  it('draws the same values again from the same seed', async () => {
    const seen: string[][] = [[], []];
    for (const list of seen) {
      const url = await serve((request, response) => {
        list.push(request.url!);
        response.end();
      });
      await run({ steps: [{ url: `${url}/vessels/{1..1000000}` }], loops: 8 });
    }
    expect(new Set(seen[0]).size).toBe(8);
    expect(seen[1]).toEqual(seen[0]);
  });

  it('does all of a visit’s steps in order, or one of them by its weight', async () => {
    const seen: string[] = [];
    const url = await serve((request, response) => {
      seen.push(request.url!);
      response.end();
    });
    const steps = [
      { url: `${url}/often`, weight: 9 },
      { url: `${url}/seldom`, weight: 1, together: 2 }
    ];
    await run({ steps, loops: 3 });
    expect(seen).toEqual(Array.from({ length: 3 }, () => ['/often', '/seldom', '/seldom']).flat());
    seen.length = 0;
    await run({ steps, loops: 200, order: 'one' });
    const often = seen.filter((path) => path === '/often').length;
    expect(often).toBeGreaterThan(160);
    expect((seen.length - often) / 2 + often).toBe(200);
  });

  it('ends after its length, though there is no end of loops', async () => {
    const url = await serve((_, response) => response.end());
    const { samples, ended } = await run({ steps: [{ url }], loops: 0, seconds: 0.5, pauseSeconds: 0.01 });
    // On a machine that gives its cores away a loop takes what it takes.
    expect(samples.length).toBeGreaterThan(1);
    expect(ended.endUs).toBeGreaterThan(400_000);
  });

  it('is stopped, and keeps what it has', async () => {
    const stop = new AbortController();
    const url = await serve((request, response) => (request.url === '/now' ? response.end() : undefined));
    const running = run({ steps: [{ url: `${url}/now` }, { url: `${url}/never` }], loops: 5 }, stop.signal);
    setTimeout(() => stop.abort(), 300);
    const { samples, ended } = await running;
    expect(ended.end).toBe('stopped');
    expect(samples.length).toBe(1);
  });

  it('gives up after so many failures in a row', async () => {
    const url = await serve((_, response) => response.writeHead(503).end());
    const { samples, ended, faults } = await run({ steps: [{ url }], loops: 1000, giveUpAfter: 7 });
    expect(ended.end).toBe('gave-up');
    expect(samples.length).toBe(7);
    expect(new Set(faults)).toEqual(new Set(['status']));
  });

  it('takes an expected status for no failure', async () => {
    const url = await serve((_, response) => response.writeHead(404).end());
    expect((await run({ steps: [{ url, expect: [404] }] })).faults).toEqual(['']);
    expect((await run({ steps: [{ url }] })).faults).toEqual(['status']);
  });
});

describe('an open model', () => {
  it('goes on sending while the server stands still, and counts from the intended start', async () => {
    let held: http.ServerResponse[] = [];
    const url = await serve((_, response) => void held.push(response));
    setTimeout(() => {
      for (const response of held) response.end();
      held = [];
    }, 700);
    const { samples } = await run({ steps: [{ url }], rate: 20, seconds: 0.5, loops: 0 });
    expect(samples.length).toBe(10);
    const sorted = samples.toSorted((a, b) => a.intendedUs - b.intendedUs);
    expect(sorted.map(({ intendedUs }) => Math.round(intendedUs / 1000))).toEqual(
      Array.from({ length: 10 }, (_, i) => i * 50)
    );
    // The first waits longest: nobody is held back.
    for (const [i, { lateUs, durationUs }] of sorted.entries())
      expect(Math.abs((lateUs + durationUs) / 1000 - (700 - i * 50))).toBeLessThan(150);
  });
});

describe('what goes wrong is a failed sample with its reason', () => {
  it.each<[string, string, (port: number) => net.Server | null, string]>([
    ['nothing listens', 'http://127.0.0.1:1', () => null, 'refused'],
    ['the server closes at once', '', () => net.createServer((socket) => socket.destroy()), 'reset'],
    [
      'what answers is not HTTP',
      '',
      () => net.createServer((socket) => socket.end('SSH-2.0-harbour\r\n')),
      'not-http'
    ],
    ['it never answers', '', () => net.createServer((socket) => void socket.on('error', () => 0)), 'timeout'],
    [
      'it speaks no TLS',
      'https',
      () => net.createServer((socket) => socket.end('HTTP/1.1 200 OK\r\n\r\n')),
      'tls'
    ]
  ])('%s', async (_, address, make, fault) => {
    const server = make(0);
    const port = server ? (await listen(server)).port : 0;
    const url = address.includes('://') ? address : `${address || 'http'}://127.0.0.1:${port}/`;
    const { faults } = await run({ steps: [{ url }], timeoutSeconds: 0.6 });
    expect(faults).toEqual([fault]);
  });

  it('a certificate nobody vouches for', async () => {
    // Without a certificate the handshake fails, as one that is not trusted does.
    const { port } = await listen(https.createServer((_, response) => response.end()));
    expect((await run({ steps: [{ url: `https://127.0.0.1:${port}` }] })).faults).toEqual(['tls']);
  });

  it('a name nobody knows', async () => {
    const targets = readTargets('no-such-quay.invalid');
    if ('wrong' in targets) throw new Error(targets.wrong);
    const read = readPlan({ steps: [{ url: 'http://no-such-quay.invalid/' }] });
    const faults: string[] = [];
    if (read.ok)
      await sendRun({
        key: '00000000000000aa',
        plan: read.plan,
        targets,
        onSample: ({ fault }) => faults.push(FAULTS[fault]),
        signal: new AbortController().signal
      });
    expect(faults).toEqual(['unknown-host']);
  });

  it('an answer without end', async () => {
    const url = await serve((_, response) => {
      const more = (): void => {
        while (!response.destroyed && response.write(Buffer.alloc(1 << 20)));
        response.once('drain', more);
      };
      more();
    });
    const { faults, samples } = await run({ steps: [{ url }], timeoutSeconds: 20 });
    expect(faults).toEqual(['answer-too-large']);
    expect(samples[0].bytes).toBeLessThan(80e6);
  });

  it('but a body of 10 MB, and an answer of 10 MB, are none', async () => {
    let received = 0;
    const url = await serve((request, response) => {
      request.on('data', (part: Buffer) => (received += part.length));
      request.on('end', () => response.end(Buffer.alloc(10_000_000)));
    });
    const { samples } = await run({ steps: [{ url, method: 'POST', body: 'x'.repeat(10_000_000) }] });
    expect(received).toBe(10_000_000);
    expect(samples[0]).toMatchObject({ bytes: 10_000_000, fault: 0 });
  });
});

describe('redirects', () => {
  it('are followed within the places that may be sent to, without the body after 303', async () => {
    const seen: string[] = [];
    const url = await serve((request, response) => {
      seen.push(`${request.method} ${request.url} ${request.headers['content-type'] ?? '-'}`);
      if (request.url === '/first') response.writeHead(303, { location: '/second' }).end();
      else response.end('there');
    });
    const { samples } = await run({
      steps: [
        { url: `${url}/first`, method: 'POST', body: '{}', headers: [['content-type', 'application/json']] }
      ]
    });
    expect(seen).toEqual(['POST /first application/json', 'GET /second -']);
    expect(samples[0]).toMatchObject({ status: 200, bytes: 5 });
  });

  it('elsewhere are failures, and nothing is sent there', async () => {
    const url = await serve((_, response) =>
      response.writeHead(302, { location: 'http://192.0.2.1/' }).end()
    );
    expect((await run({ steps: [{ url }], timeoutSeconds: 2 })).faults).toEqual(['redirect-elsewhere']);
  });

  it('without end are given up', async () => {
    const url = await serve((_, response) => response.writeHead(307, { location: '/' }).end());
    expect((await run({ steps: [{ url }] })).faults).toEqual(['redirects-without-end']);
  });

  it('are answers where they are not to be followed', async () => {
    const url = await serve((_, response) =>
      response.writeHead(302, { location: 'http://192.0.2.1/' }).end()
    );
    const { samples } = await run({ steps: [{ url }], followRedirects: false });
    expect(samples[0]).toMatchObject({ status: 302, fault: 0 });
  });
});

describe('where may be sent to', () => {
  it.each([
    'http://10.0.0.1:80',
    'http://quillhaven.example',
    'http://127.0.0.1.evil.example',
    'http://localhost@10.0.0.1',
    'http://0.0.0.0',
    'ftp://127.0.0.1',
    'file:///etc/passwd',
    '127.0.0.1:3000'
  ])('not %s', (address) => expect(refusedTarget(address, [])).not.toBe(''));

  it.each([
    'http://127.0.0.1:80',
    'https://localhost',
    'http://[::1]:8080/a?b=c',
    'http://0x7f.1',
    'http://127.1'
  ])('but %s', (address) => expect(refusedTarget(address, [])).toBe(''));

  it('and what was named, with its port or with every port', () => {
    const targets = readTargets('10.0.0.7, staging.test:8443');
    expect(targets).toEqual([
      { host: '10.0.0.7', port: '' },
      { host: 'staging.test', port: '8443' }
    ]);
    if ('wrong' in targets) return;
    expect(refusedTarget('http://10.0.0.7:99', targets)).toBe('');
    expect(refusedTarget('https://staging.test:8443/x', targets)).toBe('');
    expect(refusedTarget('https://staging.test/x', targets)).toContain('TROMIX_LOAD_TARGETS');
    expect(readTargets('http://staging.test')).toHaveProperty('wrong');
  });
});
