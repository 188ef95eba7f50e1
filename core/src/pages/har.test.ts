import { describe, expect, it } from 'vitest';
import { readArchive, type HarLog } from '../formats/har';
import { load, resource } from '../testing/page-load';
import { loadsFromHar } from './har';
import type { PageLoad } from './page-load';
import { kindByInitiator, kindByType } from './resource-kind';
import { spanOf, spanOfHeader } from './server-timing';
import { writeHar } from './write-har';

const TRACE = '4bf92f3577b34da6a3ce929d0e0e4736';
const SPAN = '00f067aa0ba902b7';
const archive = (log: object): HarLog => {
  const read = readArchive(JSON.stringify({ log }));
  if (!read.ok) throw new Error(read.message);
  return read.log;
};
const loads = (log: object): PageLoad[] =>
  loadsFromHar(archive(log), () => ({ traceId: TRACE, service: 'board', release: '' }));
const BEGIN = '2026-11-30T10:00:00.000Z';
const entry = (url: string, more: object = {}, response: object = {}): object => ({
  startedDateTime: BEGIN,
  time: 100,
  request: { method: 'GET', url, headers: [] },
  response: {
    status: 200,
    headers: [],
    headersSize: 200,
    bodySize: 1000,
    content: { size: 4000, mimeType: 'text/html; charset=utf-8' },
    ...response
  },
  timings: { blocked: 5, dns: 10, connect: 30, ssl: 20, send: 1, wait: 40, receive: 14 },
  ...more
});

describe('page loads of an HTTP Archive', () => {
  it('have their entries, with the phases one after another', () => {
    const [one] = loads({
      pages: [
        { id: 'p', startedDateTime: BEGIN, title: 'Board', pageTimings: { onContentLoad: 300, onLoad: 900 } }
      ],
      entries: [
        entry(
          'https://quay.example/board/17?token=secret',
          { pageref: 'p' },
          {
            headers: [
              { name: 'Server-Timing', value: `cache;desc=hit, traceparent;desc="00-${TRACE}-${SPAN}-01"` }
            ]
          }
        ),
        entry(
          'https://quay.example/app.js',
          { pageref: 'p', startedDateTime: '2026-11-30T10:00:00.120Z' },
          {
            content: { size: 1, mimeType: 'application/javascript' },
            bodySize: -1
          }
        )
      ]
    });
    expect(one).toMatchObject({ page: '/board/:id', loadedMs: 900, vitals: { ttfb: 86 }, largest: null });
    const [document, script] = one.resources;
    expect(document).toMatchObject({
      kind: 'document',
      startMs: 0,
      endMs: 100,
      transferBytes: 1200,
      traceId: TRACE,
      spanId: SPAN
    });
    expect(document.url).not.toContain('secret');
    expect(document.phases).toEqual({
      lookupStartMs: 5,
      lookupEndMs: 15,
      connectStartMs: 15,
      secureStartMs: 25,
      connectEndMs: 45,
      requestStartMs: 45,
      responseStartMs: 86
    });
    expect(script).toMatchObject({
      kind: 'script',
      startMs: 120,
      endMs: 220,
      transferBytes: null,
      traceId: ''
    });
  });

  it('tell nothing that the archive does not know', () => {
    const [one] = loads({
      entries: [
        entry('https://quay.example/', {
          timings: { blocked: -1, dns: -1, connect: -1, send: 0, wait: 50, receive: 1 }
        })
      ]
    });
    expect(one.loadedMs).toBeNull();
    expect(one.resources[0].phases).toMatchObject({
      lookupStartMs: null,
      connectEndMs: null,
      secureStartMs: null,
      responseStartMs: 50
    });
    const [bare] = loads({
      entries: [{ startedDateTime: BEGIN, request: { method: 'GET', url: 'https://q/' } }]
    });
    expect(bare).toMatchObject({ vitals: {}, resources: [{ phases: null, status: 0, transferBytes: null }] });
  });

  it('are left out where their time is no time, or nothing is of them', () => {
    expect(
      loads({
        pages: [{ id: 'p', startedDateTime: 'soon' }],
        entries: [entry('https://q/', { pageref: 'p' })]
      })
    ).toEqual([]);
    expect(loads({ pages: [{ id: 'p', startedDateTime: BEGIN }], entries: [] })).toEqual([]);
    expect(loads({ entries: [] })).toEqual([]);
  });

  it('take the page behind a redirect for the document', () => {
    const [one] = loads({
      entries: [
        entry('https://q/old', {}, { status: 302, content: { mimeType: 'text/html' } }),
        entry('https://q/new/9')
      ]
    });
    expect(one.page).toBe('/new/:id');
  });
});

it('a load that is written as an archive is read again with all that an archive can hold', () => {
  const phases = {
    lookupStartMs: 2,
    lookupEndMs: 12,
    connectStartMs: 12,
    secureStartMs: 20,
    connectEndMs: 40,
    requestStartMs: 40,
    responseStartMs: 90
  };
  const one = load({
    atUs: Date.parse(BEGIN) * 1000,
    loadedMs: 950,
    resources: [
      resource('document', 'https://quay.example/board', 0, 120, {
        phases,
        transferBytes: 4000,
        traceId: TRACE,
        spanId: SPAN
      }),
      resource('picture', 'https://quay.example/a.webp', 200, 400)
    ]
  });
  const written: unknown = JSON.parse(writeHar([one], '1'));
  expect(written).toMatchObject({ log: { version: '1.2', creator: { name: 'Tromix' } } });
  const [read] = loads((written as { log: object }).log);
  expect(read.loadedMs).toBe(950);
  expect(read.resources[0]).toMatchObject({
    phases,
    startMs: 0,
    endMs: 120,
    transferBytes: 4000,
    traceId: TRACE
  });
  expect(read.resources[1]).toMatchObject({ kind: 'picture', startMs: 200, endMs: 400, transferBytes: null });
});

describe('what answered', () => {
  it.each([
    [`00-${TRACE}-${SPAN}-01`, TRACE],
    [`00-${'0'.repeat(32)}-${SPAN}-01`, ''],
    [`00-${TRACE}-${'0'.repeat(16)}-01`, ''],
    [`00-${TRACE}-01`, ''],
    ['<b>', ''],
    ['', '']
  ])('%s', (value, traceId) => expect(spanOf(value).traceId).toBe(traceId));

  it('stands among other metrics of the header', () => {
    expect(spanOfHeader(`db;dur=5, traceparent;desc="00-${TRACE}-${SPAN}-01";dur=0`).spanId).toBe(SPAN);
    expect(spanOfHeader(`traceparent; desc=00-${TRACE}-${SPAN}-01`).spanId).toBe(SPAN);
    expect(spanOfHeader('traceparent, desc="x"').traceId).toBe('');
    expect(spanOfHeader('notraceparent;desc="00"').traceId).toBe('');
  });
});

describe('what a resource is', () => {
  it.each([
    ['text/html; charset=utf-8', 'document'],
    ['text/css', 'style'],
    ['application/javascript', 'script'],
    ['application/wasm', 'script'],
    ['image/svg+xml', 'picture'],
    ['font/woff2', 'font'],
    ['application/font-woff', 'font'],
    ['application/problem+json', 'data'],
    ['text/plain', 'data'],
    ['video/mp4', 'other'],
    ['', 'other']
  ])('by its type %s is %s', (type, kind) => expect(kindByType(type)).toBe(kind));

  it.each([
    ['link', 'https://q/a.css?v=3', 'style'],
    ['link', 'https://q/app.mjs', 'script'],
    ['css', 'https://q/sans.woff2', 'font'],
    ['css', 'https://q/back.png#x', 'picture'],
    ['script', 'https://q/anything', 'script'],
    ['fetch', 'https://q/a.css', 'data'],
    ['img', 'https://q/x', 'picture'],
    ['other', 'https://q/favicon.ico', 'picture'],
    ['', 'https://q/', 'other']
  ])('asked for by %s at %s is %s', (initiator, url, kind) =>
    expect(kindByInitiator(initiator, url)).toBe(kind)
  );
});
