import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import { Webhook } from 'standardwebhooks';
import { afterEach, describe, expect, it } from 'vitest';
import { pauseAfter, refusedHook, sendHook, signature } from './hook-send';

const SECRET = Buffer.from('a key that only the two of them know').toString('base64');
const BODY = JSON.stringify({ type: 'watch.on', data: { sentence: 'p95 — 612 ms' } });
const NOW = Date.now();

let server: Server | undefined;
afterEach(() => {
  server?.closeAllConnections();
  server?.close();
});

/** A receiver on the loopback. @returns its address */
async function receiver(
  answer: (request: IncomingMessage, response: ServerResponse) => void
): Promise<string> {
  server = createServer(answer);
  await new Promise<void>((resolve) => server!.listen(0, '127.0.0.1', resolve));
  return `http://127.0.0.1:${(server.address() as AddressInfo).port}/notices`;
}
const send = (url: string, withinMs = 2000) =>
  sendHook({ id: 'd-1', url, secret: SECRET, body: BODY }, [], NOW, withinMs);

describe('what is sent to a webhook', () => {
  it('is taken for genuine by the reference library of Standard Webhooks, and not once it was changed', async () => {
    // Outside check: npm package standardwebhooks 1.1.1.
    let taken: unknown;
    const url = await receiver((request, response) => {
      let text = '';
      request.on('data', (part: Buffer) => (text += part.toString()));
      request.on('end', () => {
        const headers = request.headers as Record<string, string>;
        taken = new Webhook(SECRET).verify(text, headers);
        expect(() => new Webhook(SECRET).verify(text.replace('612', '12'), headers)).toThrow();
        expect(() =>
          new Webhook(Buffer.from('another key').toString('base64')).verify(text, headers)
        ).toThrow();
        response.end('thanks');
      });
    });
    expect(await send(url)).toEqual({ ok: true, status: 200, message: '', again: false });
    expect(taken).toEqual(JSON.parse(BODY));
  });

  it('has the signature that the library makes', () => {
    const seconds = Math.floor(NOW / 1000);
    expect(signature(SECRET, 'd-1', seconds, BODY)).toBe(
      new Webhook(SECRET).sign('d-1', new Date(seconds * 1000), BODY)
    );
  });

  it('is tried again where the receiver fails, and tells what it said', async () => {
    const url = await receiver((_, response) => {
      response.statusCode = 500;
      response.end('<b>no room in the inbox</b>');
    });
    expect(await send(url)).toEqual({
      ok: false,
      status: 500,
      message: 'It answered with status 500: <b>no room in the inbox</b>',
      again: true
    });
  });

  it('is given up after a while where the receiver hangs, also in the middle of an answer', async () => {
    const silent = await receiver(() => undefined);
    expect(await send(silent, 200)).toMatchObject({
      ok: false,
      message: 'It did not answer within 0.2 s.',
      again: true
    });
    server!.closeAllConnections();
    server!.close();
    const halting = await receiver((_, response) => void response.writeHead(500).flushHeaders());
    expect(await send(halting, 200)).toMatchObject({ ok: false, again: true });
  });

  it('follows no redirect', async () => {
    let asked = 0;
    const url = await receiver((_, response) => {
      asked++;
      response.writeHead(307, { location: 'http://169.254.169.254/latest' });
      response.end();
    });
    expect(await send(url)).toMatchObject({
      ok: false,
      status: 307,
      message: expect.stringContaining('redirects are not followed') as string,
      again: false
    });
    expect(asked).toBe(1);
  });

  it('goes nowhere but to the loopback and to what the setting names', async () => {
    expect(refusedHook('http://127.0.0.1:8080/x', [])).toBe('');
    expect(refusedHook('http://169.254.169.254/', [])).toContain('TROMIX_HOOK_TARGETS');
    expect(refusedHook('file:///etc/passwd', [])).toContain('http or https');
    expect(refusedHook('https://desk.example/in', [{ host: 'desk.example', port: '443' }])).toBe('');
    expect(refusedHook('https://desk.example:8443/in', [{ host: 'desk.example', port: '443' }])).not.toBe('');
    // It is asked again at each sending: the setting may have changed since.
    expect(await send('http://10.0.0.7/')).toMatchObject({ ok: false, status: 0, again: false });
  });

  it('says why it cannot be reached', async () => {
    const url = await receiver(() => undefined);
    server!.close();
    server!.closeAllConnections();
    expect(await send(url)).toMatchObject({ message: 'It cannot be reached: ECONNREFUSED.', again: true });
  });

  it('is tried again after growing pauses, over most of a day', () => {
    const pauses: number[] = [];
    for (let tries = 1; ; tries++) {
      const pause = pauseAfter(tries, 0);
      if (pause === null) break;
      pauses.push(pause / 1000);
    }
    expect(pauses).toEqual([...pauses].sort((a, b) => a - b));
    const hours = pauses.reduce((sum, one) => sum + one, 0) / 3600;
    expect(hours).toBeGreaterThan(20);
    // A receiver that fails for an hour hears of it within two.
    const firstAfter = pauses
      .map((_, i) => pauses.slice(0, i + 1).reduce((sum, one) => sum + one, 0))
      .find((at) => at > 3600)!;
    expect(firstAfter).toBeLessThan(2 * 3600);
    expect(pauseAfter(1, 1)).toBe(11_000);
  });
});
