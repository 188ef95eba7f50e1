import { describe, expect, it } from 'vitest';
import { settingsFrom } from '../settings';
import { encodingOf } from './otlp-answer';
import { bearerOf, equal, hostAllowed, originAllowed, sessionOf } from './guard';
import { BodyTooLarge, readBody } from './read-body';

const post = (headers: Record<string, string>): Request =>
  new Request('http://127.0.0.1:4380/api', { method: 'POST', headers });

describe('guard', () => {
  it('answers to the loopback names and those it was told', () => {
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

  it('compares tokens and never puts one into the cookie', () => {
    expect(equal('a', 'a') && !equal('a', 'b') && !equal('', 'a')).toBe(true);
    expect(sessionOf('token')).not.toContain('token');
    expect(bearerOf(post({ authorization: 'Bearer abc' }))).toBe('abc');
  });
});

describe('readBody', () => {
  const body = (size: number, length?: string): Request =>
    new Request('http://127.0.0.1/', {
      method: 'POST',
      body: new Uint8Array(size),
      headers: length ? { 'content-length': length } : {}
    });

  it('reads up to the limit and not beyond, whatever length was announced', async () => {
    expect((await readBody(body(10), 10)).length).toBe(10);
    await expect(readBody(body(11), 10)).rejects.toBeInstanceOf(BodyTooLarge);
    await expect(readBody(body(1, '99'), 10)).rejects.toBeInstanceOf(BodyTooLarge);
  });
});

describe('settings', () => {
  it('names the one that is wrong', () => {
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
