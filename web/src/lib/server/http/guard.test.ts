import { describe, expect, it } from 'vitest';
import { settings, settingsFrom } from '../settings';
import { encodingOf } from './otlp-answer';
import { bearerOf, equal, hostAllowed, originAllowed, ownPlace } from './guard';
import { BodyTooLarge, progressing, TooManyUnderWay, TooSlow, withBody } from './read-body';
import { Tries } from './tries';

const post = (headers: Record<string, string>): Request =>
  new Request('http://127.0.0.1:4380/api', { method: 'POST', headers });

describe('guard', () => {
  it('answers to the loopback names and those of the setting', () => {
    expect(
      ['127.0.0.1:4380', 'localhost', '[::1]:80', '127.1.2.3'].every((host) => hostAllowed(host, []))
    ).toBe(true);
    expect(
      ['evil.example', '127.0.0.1.evil.example', 'localhost.evil.example', null].some((host) =>
        hostAllowed(host, [])
      )
    ).toBe(false);
    expect(hostAllowed('tromix.quillhaven:8080', ['tromix.quillhaven'])).toBe(true);
  });

  it('lets only its own pages, and what is no page, change anything', () => {
    expect(originAllowed(post({ origin: 'http://evil.example', host: '127.0.0.1:4380' }))).toBe(false);
    expect(originAllowed(post({ origin: 'null', host: '127.0.0.1:4380' }))).toBe(false);
    expect(originAllowed(post({ origin: 'http://127.0.0.1:4380', host: '127.0.0.1:4380' }))).toBe(true);
    expect(originAllowed(post({ host: '127.0.0.1:4380' }))).toBe(true);
  });

  it('compares tokens', () => {
    expect(equal('a', 'a') && !equal('a', 'b') && !equal('', 'a')).toBe(true);
    expect(bearerOf(post({ authorization: 'Bearer abc' }))).toBe('abc');
  });
});

describe('withBody', () => {
  const body = (size: number, length?: string): Request =>
    new Request('http://127.0.0.1/', {
      method: 'POST',
      body: new Uint8Array(size),
      headers: length ? { 'content-length': length } : {}
    });

  it('reads up to the limit and not beyond, whatever length was announced', async () => {
    const read = (request: Request, most: number): Promise<number> =>
      withBody(request, most, (bytes) => Promise.resolve(bytes.length));
    expect(await read(body(10), 10)).toBe(10);
    await expect(read(body(11), 10)).rejects.toBeInstanceOf(BodyTooLarge);
    await expect(read(body(1, '99'), 10)).rejects.toBeInstanceOf(BodyTooLarge);
  });

  it('holds no more bodies at once than the setting allows, over all connections, and lets go of each', async () => {
    const half = settings().maxUnderWayBytes / 2 + 1;
    const held = withBody(body(half), half, () => new Promise((resolve) => setTimeout(resolve, 300)));
    await new Promise((resolve) => setTimeout(resolve, 100));
    await expect(withBody(body(half), half, () => Promise.resolve())).rejects.toBeInstanceOf(TooManyUnderWay);
    await held;
    expect(await withBody(body(half), half, (bytes) => Promise.resolve(bytes.length))).toBe(half);
  });
});

describe('a body that comes slowly', () => {
  async function* trickle(bytes: number, everyMs: number, times: number): AsyncGenerator<Uint8Array> {
    for (let i = 0; i < times; i++) {
      await new Promise((resolve) => setTimeout(resolve, everyMs));
      yield new Uint8Array(bytes);
    }
  }
  const drain = async (stream: AsyncIterable<Uint8Array>, pauseMs = 0): Promise<number> => {
    let bytes = 0;
    for await (const part of progressing(stream, 100)) {
      bytes += part.length;
      if (pauseMs > 0) await new Promise((resolve) => setTimeout(resolve, pauseMs));
    }
    return bytes;
  };

  it('is given up where it stops, and where it brings a byte now and then', async () => {
    await expect(drain(trickle(1, 300, 1))).rejects.toBeInstanceOf(TooSlow);
    await expect(drain(trickle(1, 20, 50))).rejects.toBeInstanceOf(TooSlow);
  });

  it('is read as long as it goes on, and as long as it is this side that waits', async () => {
    expect(await drain(trickle(5000, 30, 8))).toBe(40_000);
    expect(await drain(trickle(10, 1, 4), 60)).toBe(40);
  });
});

describe('tries', () => {
  it('cost growing pauses after a few wrong tokens, for that address alone, and are forgotten in time', () => {
    const tries = new Tries();
    let guesses = 0;
    const guess = (nowMs: number): void => tries.wrong('192.0.2.1', `guess ${guesses++}`, nowMs);
    for (let i = 0; i < 5; i++) guess(0);
    expect(tries.pauseMs('192.0.2.1', 0)).toBe(0);
    guess(0);
    expect(tries.pauseMs('192.0.2.1', 0)).toBe(1000);
    guess(1000);
    expect(tries.pauseMs('192.0.2.1', 1000)).toBe(2000);
    for (let i = 0; i < 30; i++) guess(1000);
    expect(tries.pauseMs('192.0.2.1', 1000)).toBe(15 * 60_000);
    expect(tries.pauseMs('192.0.2.2', 1000)).toBe(0);
    expect(tries.pauseMs('192.0.2.1', 2 * 3_600_000)).toBe(0);
    tries.right('192.0.2.1');
    expect(tries.pauseMs('192.0.2.1', 1000)).toBe(0);
  });

  it('count one wrong token once, however often it is sent: it is no further guess', () => {
    const tries = new Tries();
    for (let i = 0; i < 100; i++) tries.wrong('192.0.2.1', 'the token of last year', i);
    expect(tries.pauseMs('192.0.2.1', 100)).toBe(0);
  });
});

describe('the place somebody is sent to after signing in', () => {
  it.each([
    ['/requests?sort=time#x', '/requests?sort=time#x'],
    ['/', '/'],
    [null, '/'],
    ['//harbour.example', '/'],
    ['/\\harbour.example', '/'],
    ['\\\\harbour.example', '/'],
    ['https://harbour.example/', '/'],
    ['/.//harbour.example', '/'],
    ['javascript:alert(1)', '/'],
    ['\t//harbour.example', '/'],
    ['http://[', '/']
  ])('%s leads to %s', (to, place) => {
    expect(ownPlace(to)).toBe(place);
  });
});

describe('settings', () => {
  it('take no token that could be guessed', () => {
    expect(() => settingsFrom({ TROMIX_TOKEN: 'short' }, '/x')).toThrow(
      'Invalid TROMIX_TOKEN: expected at least 16 characters'
    );
    expect(() => settingsFrom({ TROMIX_INGEST_TOKEN: 'gauge' }, '/x')).toThrow('TROMIX_INGEST_TOKEN');
    expect(settingsFrom({ TROMIX_TOKEN: 'sixteen-letters-' }, '/x').token).toBe('sixteen-letters-');
  });

  it('names the one that is wrong', () => {
    expect(() => settingsFrom({ TROMIX_MAX_PAGE: '5' }, '/x')).toThrow(
      'Invalid TROMIX_MAX_PAGE: there is no such setting. Did you mean TROMIX_MAX_PAGES?'
    );
    expect(() => settingsFrom({ TROMIX_MAX_UPLOAD_BYTES: 'many' }, '/x')).toThrow(/TROMIX_MAX_UPLOAD_BYTES/);
  });
  it('has safe defaults', () => {
    expect(settingsFrom({}, '/x')).toMatchObject({
      databaseUrl: 'file:/x/data/tromix.sqlite',
      token: '',
      keepLiteralsOf: [],
      maxBatchBytes: 16 * 1024 * 1024
    });
  });
});

describe('encodingOf', () => {
  it('knows the two content types of OTLP/HTTP', () => {
    expect(
      ['application/json; charset=utf-8', 'application/x-protobuf', 'text/plain', null].map(encodingOf)
    ).toEqual(['json', 'protobuf', null, null]);
  });
});
