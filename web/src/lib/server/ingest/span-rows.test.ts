import { mkdtemp, rm } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import fc from 'fast-check';
import { afterAll, beforeAll, expect, it } from 'vitest';
import type { Span } from '@tromix/core/trace/span';
import { resource } from '@tromix/core/testing/spans';
import { spansFrom, type StoredSpans } from '$lib/stored-spans';
import { openForWriting } from '../db/client';
import { jsonValue, type Database } from '../db/database';
import { spanRow, SPANS, spansSelect } from './span-rows';

const RESOURCE = resource();
let folder: string;
let database: Database;
beforeAll(async () => {
  folder = await mkdtemp(path.join(os.tmpdir(), 'tromix-spans-'));
  database = await openForWriting(
    `file:${path.join(folder, 'spans.sqlite')}`,
    path.resolve(import.meta.dirname, '../../../../drizzle')
  );
  await database.write([
    {
      sql: "INSERT INTO call_groups (id, kind, fingerprint, verb) VALUES (7, 'database', 'select ?', 'select')",
      args: []
    }
  ]);
});
afterAll(async () => {
  await database.close();
  await rm(folder, { recursive: true });
});

const text = fc.string({ unit: 'grapheme', maxLength: 12 });
const value = fc.oneof(text, fc.integer(), fc.boolean(), fc.array(text, { maxLength: 2 }));
const attributes = fc.array(fc.tuple(text, value), { maxLength: 3 }).map((entries) => new Map(entries));
const call = fc.record({
  kind: fc.constant('database' as const),
  fingerprint: fc.constant('select ?'),
  verb: fc.constant('select'),
  origin: text,
  literals: fc.option(fc.nat(2 ** 40)),
  rows: fc.option(fc.nat(1000))
});
const spans = fc
  .array(
    fc.record({
      traceId: fc.constantFrom('a'.repeat(32), 'b'.repeat(32)),
      parentId: fc.constantFrom('', 'c'.repeat(16)),
      name: fc.oneof(fc.constant('work'), text),
      kind: fc.nat(5),
      startUs: fc.nat(1e9).map((us) => 1_700_000_000_000_000 + us),
      startNs: fc.nat(999),
      durationNs: fc.nat(1e12),
      status: fc.nat(2),
      statusMessage: text,
      attributes,
      events: fc.array(fc.record({ name: text, offsetNs: fc.nat(1e9), attributes }), { maxLength: 2 }),
      call: fc.option(call)
    }),
    { minLength: 1, maxLength: 12 }
  )
  .map((list) =>
    list.map((one, i): Span => ({ ...one, spanId: i.toString(16).padStart(16, '0'), resource: RESOURCE }))
  );

it('gives back every span that was stored, whatever it holds, once each', async () => {
  await fc.assert(
    fc.asyncProperty(spans, async (sent) => {
      const rows = sent.map((span) => spanRow(span, 1, span.call ? 7 : null));
      await database.write(['DELETE FROM spans', SPANS.insert('INSERT', rows)]);
      const stored = (await jsonValue(database, spansSelect('trace_id IN (?, ?)'), [
        'a'.repeat(32),
        'b'.repeat(32)
      ])) as StoredSpans;
      const found = spansFrom(stored, new Map([[1, RESOURCE]]));
      const byId = (one: Span, other: Span): number => (one.spanId < other.spanId ? -1 : 1);
      expect(found.sort(byId)).toEqual(sent);
      // What they share is reported once.
      expect(new Set(stored.facts.map((one) => JSON.stringify(one))).size).toBe(stored.facts.length);
    }),
    { numRuns: 60 }
  );
});

it('gives empty columns where nothing is stored, and tells of a process that is not', async () => {
  const of = async (traceId: string): Promise<StoredSpans> => {
    return (await jsonValue(database, spansSelect('trace_id = ?'), [traceId])) as StoredSpans;
  };
  expect(spansFrom(await of('d'.repeat(32)), new Map())).toEqual([]);
  const one = {
    traceId: 'e'.repeat(32),
    spanId: 'f'.repeat(16),
    parentId: '',
    name: 'work',
    kind: 1,
    startUs: 1,
    startNs: 0,
    durationNs: 1,
    status: 0,
    statusMessage: '',
    attributes: new Map(),
    events: [],
    call: null,
    resource: RESOURCE
  };
  await database.write([SPANS.insert('INSERT', [spanRow(one, 3, null)])]);
  const stored = await of(one.traceId);
  expect(() => spansFrom(stored, new Map([[1, RESOURCE]]))).toThrow('names resource 3, which is not stored');
});
