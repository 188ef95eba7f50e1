import type { PageLoad, PageResource } from './page-load';

/** −1 stands for what is not known (HAR 1.2). */
const UNKNOWN = -1;
const TYPES: Record<PageResource['kind'], string> = {
  document: 'text/html',
  style: 'text/css',
  script: 'text/javascript',
  data: 'application/json',
  picture: 'image/*',
  font: 'font/*',
  other: ''
};

const iso = (ms: number): string => new Date(ms).toISOString();
const between = (from: number | null, to: number | null): number =>
  from === null || to === null ? UNKNOWN : Math.max(0, to - from);

/** Page loads as an HTTP Archive 1.2 (W3C Web Performance group, historical draft; from memory). What is not known of an entry is −1. */
export function writeHar(loads: readonly PageLoad[], version: string): string {
  const log = {
    version: '1.2',
    creator: { name: 'Tromix', version },
    pages: loads.map((load, i) => ({
      id: pageId(i),
      startedDateTime: iso(load.atUs / 1000),
      title: load.url,
      pageTimings: { onContentLoad: UNKNOWN, onLoad: load.loadedMs ?? UNKNOWN }
    })),
    entries: loads.flatMap((load, i) => load.resources.map((one) => entryOf(load, one, pageId(i))))
  };
  return JSON.stringify({ log });
}

const pageId = (i: number): string => `page_${i + 1}`;

function entryOf(load: PageLoad, resource: PageResource, pageref: string): object {
  const { phases: p, startMs, endMs, traceId, spanId } = resource;
  const timings = {
    blocked: between(startMs, p?.lookupStartMs ?? p?.connectStartMs ?? p?.requestStartMs ?? null),
    dns: between(p?.lookupStartMs ?? null, p?.lookupEndMs ?? null),
    connect: between(p?.connectStartMs ?? null, p?.connectEndMs ?? null),
    ssl: between(p?.secureStartMs ?? null, p?.connectEndMs ?? null),
    // It must be a number, though nobody tells it: what is known is the wait from the request on.
    send: 0,
    wait: Math.max(0, between(p?.requestStartMs ?? null, p?.responseStartMs ?? null)),
    receive: Math.max(0, between(p?.responseStartMs ?? null, endMs))
  };
  const headers =
    traceId === '' ? [] : [{ name: 'server-timing', value: `traceparent;desc="00-${traceId}-${spanId}-01"` }];
  const none = { cookies: [], headersSize: UNKNOWN };
  return {
    pageref,
    startedDateTime: iso(load.atUs / 1000 + startMs),
    time: endMs - startMs,
    request: {
      ...none,
      // It must be one, though nobody tells it.
      method: resource.method || 'GET',
      url: resource.url,
      httpVersion: '',
      headers: [],
      queryString: [],
      bodySize: UNKNOWN
    },
    response: {
      ...none,
      status: resource.status,
      statusText: '',
      httpVersion: '',
      headers,
      redirectURL: '',
      headersSize: resource.transferBytes === null ? UNKNOWN : 0,
      bodySize: resource.transferBytes ?? UNKNOWN,
      content: { size: resource.transferBytes ?? 0, mimeType: TYPES[resource.kind] }
    },
    cache: {},
    timings
  };
}
