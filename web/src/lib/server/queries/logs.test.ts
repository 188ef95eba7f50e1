import { mkdtemp, rm } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import type { LogRecord } from '@tromix/core/formats/otlp/logs';
import { resource } from '@tromix/core/testing/spans';
import { afterAll, beforeAll, expect, it, vi } from 'vitest';
import { scopeFrom, scopeWindow, type Scope } from '$lib/scope';
import { MINUTE, openWriter, request, RETENTION, sendRequests } from '$lib/testing/sent-requests';
import type { Writer } from '../ingest/writer';

let folder: string;
let url: string;
let writer: Writer;
vi.mock('../settings', () => ({
  settings: () => ({ databaseUrl: url, sourceFolders: [], retention: RETENTION })
}));
vi.mock('../workers', async () => (await import('$lib/testing/local-workers')).localWorkers(() => url));
const { logOf, logsOf } = await import('./logs');
const { failuresOf } = await import('./failures');
const { failureOf } = await import('./failure');

const NOW = Math.floor(Date.now() / MINUTE) * MINUTE;
const scopeOf = (query: Record<string, string> = {}): Scope =>
  scopeFrom(new URLSearchParams({ last: '30m', ...query }));
const window = scopeWindow(scopeOf(), NOW);
const record = (body: string, minutesAgo: number, more: Partial<LogRecord> = {}): LogRecord => ({
  resource: resource('tugs', 'pier-1', 40),
  traceId: '',
  spanId: '',
  atUs: (NOW - minutesAgo * MINUTE) * 1000,
  atNs: 0,
  severity: 9,
  body,
  attributes: new Map(),
  ...more
});
const ANY = { text: '', severity: 0, outside: false };

beforeAll(async () => {
  folder = await mkdtemp(path.join(os.tmpdir(), 'tromix-loglist-'));
  url = `file:${path.join(folder, 'test.sqlite')}`;
  writer = await openWriter(url);
  await sendRequests(writer, [request({ trace: 3, at: NOW - 6 * MINUTE, ms: 40 })]);
  await writer.addLogs([
    record('Tug 4 leaves', 9),
    record('tug 4 lost its line', 5, {
      severity: 17,
      attributes: new Map([['weather', 'squall over the bar']])
    }),
    record('planned', 6, {
      resource: resource('berths', 'quay-2'),
      traceId: '3'.padStart(32, '0'),
      spanId: (3001).toString(16).padStart(16, '0')
    }),
    record('too old', 45)
  ]);
  await writer.settle(Date.now(), true);
});
afterAll(async () => {
  await writer.close();
  await rm(folder, { recursive: true, force: true });
});

const bodies = async (scope = scopeOf(), search: Partial<typeof ANY> = {}): Promise<string[]> =>
  (await logsOf(scope, window, { ...ANY, ...search })).records.map(({ body }) => body);

it('lists the newest first, by window, service, host, severity, and what names no trace', async () => {
  expect(await bodies()).toEqual(['tug 4 lost its line', 'planned', 'Tug 4 leaves']);
  expect(await bodies(scopeOf({ service: 'berths' }))).toEqual(['planned']);
  expect(await bodies(scopeOf({ host: 'pier-1' }))).toEqual(['tug 4 lost its line', 'Tug 4 leaves']);
  expect(await bodies(scopeOf(), { severity: 13 })).toEqual(['tug 4 lost its line']);
  expect(await bodies(scopeOf(), { outside: true })).not.toContain('planned');
});

it('searches text and attributes, whatever the case', async () => {
  expect(await bodies(scopeOf(), { text: 'TUG 4' })).toHaveLength(2);
  expect(await bodies(scopeOf(), { text: 'Squall' })).toEqual(['tug 4 lost its line']);
  expect(await bodies(scopeOf(), { text: '%' })).toEqual([]);
});

it('leads from a record to its span, and has all it says', async () => {
  const { records } = await logsOf(scopeOf({ service: 'berths' }), window, ANY);
  expect(records[0]).toMatchObject({
    requestSpanId: (3001).toString(16).padStart(16, '0'),
    service: 'berths',
    host: 'quay-2'
  });
  const [lost] = (await logsOf(scopeOf(), window, ANY)).records;
  expect((await logOf(lost.id))?.attributes.get('weather')).toBe('squall over the bar');
  expect(await logOf(99_999)).toBeNull();
});

it('an error outside of every request is a failure of its service, with what the process wrote before', async () => {
  const tugs = scopeOf({ service: 'tugs' });
  const { groups } = await failuresOf(tugs, window, NOW);
  expect(groups).toMatchObject([{ message: 'tug ? lost its line', times: 1, requests: 0, seen: 0 }]);
  expect((await failuresOf(scopeOf({ service: 'berths' }), window, NOW)).groups).toEqual([]);
  const detail = await failureOf(tugs, window, NOW, groups[0].id, 0);
  expect(detail?.example).toMatchObject({
    traceId: '',
    host: 'pier-1',
    exception: { type: '', message: 'tug 4 lost its line' },
    before: [{ words: 'Tug 4 leaves', kind: 'log' }],
    beforeOf: 'process'
  });
});
