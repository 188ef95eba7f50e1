import { describe, expect, it } from 'vitest';
import { decodeTracesJson } from '../formats/otlp/traces';
import { loadFromSpans, MAX_RESOURCES } from './from-spans';

const TRACE = '4bf92f3577b34da6a3ce929d0e0e4736';
type Value = string | number;
const attributes = (of: Record<string, Value>): object[] =>
  Object.entries(of).map(([key, value]) => ({
    key,
    value: typeof value === 'number' ? { doubleValue: value } : { stringValue: value }
  }));
/** The browser's clock is five hours off. */
const CLOCK_MS = Date.UTC(2026, 10, 30, 15);
const AT_US = Date.UTC(2026, 10, 30, 10) * 1000;
const nano = (ms: number): string => `${Math.round((CLOCK_MS + ms) * 1000)}000`;
let last = 1;
const child = (
  name: string,
  from: number,
  to: number,
  of: Record<string, Value>,
  events: object[] = []
): object => ({
  traceId: TRACE,
  spanId: (++last).toString(16).padStart(16, '0'),
  parentSpanId: '0'.repeat(15) + '1',
  name,
  kind: 3,
  startTimeUnixNano: nano(from),
  endTimeUnixNano: nano(to),
  attributes: attributes(of),
  events
});
const moment = (name: string, ms: number): object => ({ name, timeUnixNano: nano(ms) });
const vital = (name: string, value: Value, more: Record<string, Value> = {}): object => ({
  name: 'browser.web_vital',
  timeUnixNano: nano(0),
  attributes: attributes({ 'web_vital.name': name, 'web_vital.value': value, ...more })
});
function sent(of: Record<string, Value>, events: object[], children: object[]) {
  const root = {
    traceId: TRACE,
    spanId: '0'.repeat(15) + '1',
    name: 'page load',
    kind: 1,
    startTimeUnixNano: nano(0),
    endTimeUnixNano: nano(5000),
    attributes: attributes(of),
    events
  };
  const resource = { attributes: attributes({ 'service.name': 'board', 'service.version': '7.3' }) };
  const body = { resourceSpans: [{ resource, scopeSpans: [{ spans: [...children, root] }] }] };
  return loadFromSpans(decodeTracesJson(JSON.stringify(body)).spans, AT_US);
}

describe('a page load that was sent', () => {
  it('is read whole, by the clock of who received it', () => {
    const load = sent(
      {
        'url.full': 'https://quay.example/board/17?token=secret',
        'session.id': 's1',
        'tromix.page.navigation': 'reload',
        'tromix.page.device': 'phone',
        'tromix.page.loaded_ms': 4800,
        'network.connection.subtype': '4g'
      },
      [
        vital('LCP', 3000),
        vital('lcp', 4120, {
          'web_vital.element': 'main > img',
          'web_vital.url': 'https://quay.example/harbour.webp'
        }),
        vital('CLS', 0.02)
      ],
      [
        child(
          'resource',
          10,
          340,
          {
            'url.full': 'https://quay.example/board/17',
            'tromix.resource.initiator': 'navigation',
            'http.response.size': 24_000,
            'http.response.status_code': 200,
            'tromix.resource.traceparent': `00-${TRACE}-00f067aa0ba902b7-01`
          },
          [
            moment('domainLookupStart', 12),
            moment('connectEnd', 40),
            moment('responseStart', 300),
            moment('exception', 1)
          ]
        ),
        child('resource', 400, 900, {
          'url.full': 'https://cdn.example/app.js',
          'tromix.resource.initiator': 'script',
          'tromix.resource.render_blocking': 'blocking',
          'tromix.resource.unused_share': 0.7
        }),
        child('long task', 1000, 1988, {
          'code.function.name': 'drawTides',
          'code.file.path': 'https://quay.example/board.js'
        })
      ]
    )!;
    expect(load).toMatchObject({
      atUs: AT_US,
      page: '/board/:id',
      service: 'board',
      release: '7.3',
      device: 'phone',
      connection: '4g',
      navigation: 'reload',
      session: 's1',
      loadedMs: 4800,
      vitals: { lcp: 4120, cls: 0.02 },
      largest: { atMs: 4120, element: 'main > img', url: 'https://quay.example/harbour.webp' }
    });
    expect(load.url).not.toContain('secret');
    const [document, script] = load.resources;
    expect(document).toMatchObject({
      kind: 'document',
      startMs: 10,
      endMs: 340,
      transferBytes: 24_000,
      status: 200
    });
    expect(document).toMatchObject({ traceId: TRACE, spanId: '00f067aa0ba902b7', blocks: null });
    expect(document.phases).toMatchObject({
      lookupStartMs: 12,
      lookupEndMs: null,
      connectEndMs: 40,
      responseStartMs: 300
    });
    // Another origin keeps its times to itself.
    expect(script).toMatchObject({
      kind: 'script',
      phases: null,
      transferBytes: null,
      blocks: true,
      unusedShare: 0.7
    });
    expect(load.tasks).toEqual([
      { startMs: 1000, endMs: 1988, script: 'https://quay.example/board.js', function: 'drawTides' }
    ]);
  });

  it('leaves out what is no time, no size, no vital and no name that is known', () => {
    const load = sent(
      {
        'url.full': 'https://quay.example/',
        'tromix.page.navigation': '<b>',
        'tromix.page.device': 'toaster',
        'tromix.page.loaded_ms': -5
      },
      [vital('LCP', -1), vital('INP', 1e12), vital('CLS', 5000), vital('__proto__', 1), vital('FCP', 'soon')],
      [
        child('resource', -100, 20, { 'url.full': 'https://q/a' }),
        child('resource', 10, 1e8, { 'url.full': 'https://q/b' }),
        child('resource', 10, 20, {
          'url.full': 'https://q/c',
          'http.response.size': -4,
          'tromix.resource.unused_share': 7
        }),
        child('something else', 10, 20, {})
      ]
    )!;
    expect(load).toMatchObject({
      navigation: 'navigate',
      device: '',
      loadedMs: null,
      vitals: {},
      largest: null,
      tasks: []
    });
    expect(
      load.resources.map(({ url, transferBytes, unusedShare }) => [url, transferBytes, unusedShare])
    ).toEqual([['https://q/c', null, null]]);
  });

  it('has so many resources at the most', () => {
    const many = Array.from({ length: MAX_RESOURCES + 50 }, (_, i) =>
      child('resource', i / 10, i / 10 + 1, { 'url.full': `https://q/${i}` })
    );
    expect(sent({ 'url.full': 'https://q/' }, [], many)!.resources).toHaveLength(MAX_RESOURCES);
  });

  it('is none without its root', () => {
    const spans = decodeTracesJson(
      JSON.stringify({
        resourceSpans: [{ scopeSpans: [{ spans: [child('resource', 0, 1, { 'url.full': 'https://q/' })] }] }]
      })
    ).spans;
    expect(loadFromSpans(spans, AT_US)).toBeNull();
    expect(loadFromSpans([], AT_US)).toBeNull();
  });
});
