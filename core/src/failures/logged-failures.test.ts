import { describe, expect, it } from 'vitest';
import { resource, span } from '../testing/spans';
import { SpanKind, type Span } from '../trace/span';
import { buildTree } from '../trace/tree';
import { logTellsOfFailure, loggedIdentity, withLoggedFailures, type LoggedFailure } from './logged-failures';
import { failuresIn } from './trace-failures';

const berths = resource('berths');
const thrown = (type: string, message: string): Map<string, string> =>
  new Map([
    ['exception.type', type],
    ['exception.message', message],
    ['exception.stacktrace', `${type}: ${message}\n    at reserve (/srv/berths/plan.ts:41:9)`]
  ]);
const served = (events: Span['events'] = [], status = 0): Span =>
  span({ id: 'serve', from: 0, to: 100, kind: SpanKind.SERVER, resource: berths, events, status });
const inner = (events: Span['events'] = [], status = 0): Span =>
  span({ id: 'reserve', parent: 'serve', from: 10, to: 50, resource: berths, events, status });

const record = (of: Span | null, more: Partial<LoggedFailure> = {}): LoggedFailure => ({
  spanId: of?.spanId ?? '',
  process: berths.key,
  atUs: served().startUs + 20_000,
  atNs: 0,
  body: 'berth 3 could not be reserved',
  attributes: new Map(),
  ...more
});
const told = (spans: Span[], ...records: LoggedFailure[]): string[] =>
  failuresIn(buildTree(withLoggedFailures(spans, records))).map(
    ({ identity: { type, message, function: name, endpoint } }) =>
      [type, message, name, endpoint].filter(Boolean).join(' | ')
  );

describe('failures that a log tells of', () => {
  it('takes an exception of the log, and an error without one by its words', () => {
    expect(
      told([served()], record(served(), { attributes: thrown('BerthTaken', 'berth 3 is taken') }))
    ).toEqual(['BerthTaken | berth ? is taken | reserve']);
    expect(told([served(), inner()], record(inner()))).toEqual([
      'berth ? could not be reserved | berths: reserve'
    ]);
  });

  it('does not count again what a span on the way tells of', () => {
    const event = { name: 'exception', offsetNs: 1e6, attributes: thrown('BerthTaken', 'berth 3 is taken') };
    const same = { attributes: thrown('BerthTaken', 'berth 3 is taken') };
    for (const spans of [[served([event], 2)], [served(), inner([event], 2)], [served([event], 2), inner()]])
      for (const at of spans) expect(told(spans, record(at, same))).toHaveLength(1);
    expect(told([served([event], 2)], record(served()))).toEqual(['BerthTaken | berth ? is taken | reserve']);
    expect(told([served([], 2)], record(served()))).toHaveLength(1);
    expect(
      told([served([event], 2)], record(served(), { attributes: thrown('TideLow', 'too low') }))
    ).toEqual([expect.stringContaining('BerthTaken'), expect.stringContaining('TideLow')]);
  });

  it('an error without an exception above one that is told is the same story; the same words twice are one', () => {
    expect(told([served(), inner([], 2)], record(served()))).toHaveLength(1);
    expect(
      told([served()], record(served()), record(served(), { body: 'berth 9 could not be reserved' }))
    ).toHaveLength(1);
    expect(told([served()], record(served()), record(served(), { body: 'no pilot is free' }))).toHaveLength(
      2
    );
  });

  it('a record of no known span belongs to the outermost of its process, else of the trace', () => {
    const tides = resource('tides');
    const asked = span({
      id: 'tide',
      parent: 'serve',
      from: 20,
      to: 30,
      kind: SpanKind.SERVER,
      resource: tides
    });
    expect(told([served(), asked], record(null, { process: tides.key }))).toEqual([
      expect.stringContaining('tides:')
    ]);
    expect(told([served(), asked], record(null, { process: 'another' }))).toEqual([
      expect.stringContaining('berths:')
    ]);
    expect(told([served(), asked], record(null, { spanId: 'f'.repeat(16) }))).toHaveLength(1);
  });

  it('leaves the spans as they came, so that they can be booked again', () => {
    const spans = [served()];
    withLoggedFailures(spans, [record(served())]);
    expect(spans[0].events).toEqual([]);
  });

  it('reads severity as OpenTelemetry numbers it: 17 is ERROR, 13 is WARN (Logs Data Model, SeverityNumber)', () => {
    expect(logTellsOfFailure({ severity: 17, attributes: new Map() })).toBe(true);
    expect(logTellsOfFailure({ severity: 16, attributes: new Map() })).toBe(false);
    expect(logTellsOfFailure({ severity: 9, attributes: thrown('E', 'm') })).toBe(true);
  });

  it('outside of every trace it is told apart by its frame, else by its service', () => {
    expect(loggedIdentity('berths', { body: 'disk 3 is full', attributes: new Map() })).toMatchObject({
      message: 'disk ? is full',
      endpoint: 'berths: outside of requests'
    });
    expect(loggedIdentity('berths', { body: '', attributes: thrown('E', 'm') })).toMatchObject({
      function: 'reserve',
      endpoint: ''
    });
  });

  it('stays quick with thousands of failing spans, calls that name each other, and records without end', () => {
    const took = (size: number): number => {
      const many = Array.from({ length: size }, (_, i) =>
        span({ id: `s${i}`, parent: `s${(i + 1) % size}`, from: 0, to: 1, resource: berths, status: 2 })
      );
      const records = Array.from({ length: size / 4 }, (_, i) =>
        record(many[i], { body: `word${'x'.repeat(i % 9)}` })
      );
      const began = performance.now();
      withLoggedFailures(many, records);
      return performance.now() - began;
    };
    const least = (size: number): number => Math.min(took(size), took(size), took(size));
    // Four times as much takes four times as long; sixteen times where each were held against each.
    expect(least(20_000)).toBeLessThan(9 * least(5000) + 100);
  });
});
