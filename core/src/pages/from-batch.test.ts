import { describe, expect, it } from 'vitest';
import { decodeTracesJson } from '../formats/otlp/traces';
import { partsFromBatch } from './from-batch';
import { MAX_RESOURCES } from './from-spans';

const RECEIVED_US = Date.UTC(2026, 10, 30, 10) * 1000;
/** Browsers’ clocks are off: this one by five hours. */
const CLOCK_MS = Date.UTC(2026, 10, 30, 15);
const nano = (ms: number): string => `${Math.round((CLOCK_MS + ms) * 1000)}000`;
type Value = string | number;
const attributes = (of: Record<string, Value>): object[] =>
  Object.entries(of).map(([key, value]) => ({
    key,
    value: typeof value === 'number' ? { doubleValue: value } : { stringValue: value }
  }));
const span = (name: string, of: Record<string, Value>, more: object = {}): object => ({
  traceId: 'a'.repeat(32),
  spanId: '1'.repeat(16),
  name,
  startTimeUnixNano: nano(0),
  endTimeUnixNano: nano(1000),
  attributes: attributes(of),
  ...more
});
const root = (of: Record<string, Value> = {}, more: object = {}): object =>
  span('page load', { 'url.full': 'https://quay.example/board', 'tromix.page.sent_ms': 3000, ...of }, more);
const read = (...spans: object[]) =>
  partsFromBatch(
    decodeTracesJson(JSON.stringify({ resourceSpans: [{ scopeSpans: [{ spans }] }] })),
    RECEIVED_US
  );

describe('parts of loads as they are sent', () => {
  it('begin by the receiver’s clock, as long ago as the browser says', () => {
    const { parts, rejected } = read(root({ 'tromix.page.part': 2 }));
    expect(rejected).toEqual([]);
    expect(parts[0]).toMatchObject({ part: 2, load: { atUs: RECEIVED_US - 3_000_000, page: '/board' } });
  });

  it.each([
    ['no time', {}],
    ['a negative time', { 'tromix.page.sent_ms': -1 }],
    ['a time beyond a week', { 'tromix.page.sent_ms': 8 * 86_400_000 }],
    ['a time that is none', { 'tromix.page.sent_ms': 'soon' }]
  ])('are rejected with a count where they are sent at %s', (_, of) => {
    const forged = span('page load', { 'url.full': '/', ...of });
    expect(read(forged)).toMatchObject({ parts: [], rejected: [{ count: 1 }] });
  });

  it('are rejected where they belong to no load, and leave others as they are', () => {
    const { parts, rejected } = read(root(), span('GET /', {}, { traceId: 'b'.repeat(32) }));
    expect(parts).toHaveLength(1);
    expect(rejected).toEqual([{ reason: 'span belongs to no page load', count: 1 }]);
  });

  it('take a number of a part that is none for the first', () => {
    expect(read(root({ 'tromix.page.part': 1e12 })).parts[0].part).toBe(1);
    expect(read(root({ 'tromix.page.part': 0.5 })).parts[0].part).toBe(1);
  });

  it('keep so many resources, and count the others', () => {
    const many = Array.from({ length: MAX_RESOURCES + 7 }, (_, i) =>
      span(
        'img',
        { 'url.full': `https://quay.example/${i}.png` },
        { spanId: i.toString(16).padStart(16, '2'), parentSpanId: '1'.repeat(16) }
      )
    );
    const [{ load }] = read(root({ 'tromix.page.left_out': 3 }), ...many).parts;
    expect(load.resources).toHaveLength(MAX_RESOURCES);
    expect(load.leftOut).toBe(10);
  });

  it('are masked: errors, labels, addresses', () => {
    const at = nano(500);
    const events = [
      {
        name: 'exception',
        timeUnixNano: at,
        attributes: attributes({
          'exception.type': 'Error',
          'exception.message': 'no berth for anna.berg@quay.example'
        })
      },
      {
        name: 'tromix.step',
        timeUnixNano: at,
        attributes: attributes({
          'tromix.step.kind': 'click',
          'tromix.step.label': 'Write to anna.berg@quay.example'
        })
      }
    ];
    const [{ load }] = read(root({ 'url.full': 'https://quay.example/board?token=abc' }, { events })).parts;
    expect(JSON.stringify(load)).not.toContain('anna.berg');
    expect(load.url).toBe('https://quay.example/board?token=?');
    expect(load.errors[0]).toMatchObject({ type: 'Error', atMs: 500 });
    expect(load.steps[0].kind).toBe('click');
  });
});
