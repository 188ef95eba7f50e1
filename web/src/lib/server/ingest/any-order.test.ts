import { mkdtemp, rm } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import fc from 'fast-check';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { pairsOf, readSketch } from '@tromix/core/stats/sketch';
import { anySpans } from '@tromix/core/testing/any-trace';
import { openDatabase } from '$lib/server/db/client';
import { resourceSpansOf, spansOfTrace } from '$lib/testing/resource-spans';
import { openWriter } from '$lib/testing/sent-requests';
import { columnOf, LEDGER_KEYS } from '../db/ledger-columns';
import { REQUEST_ROLLUP } from './rollup-shapes';

/** However spans come (in pieces, in any order, twice, after their trace was booked), the same is booked as if all came at once. */
let folder: string;
let databases = 0;
beforeAll(async () => {
  folder = await mkdtemp(path.join(os.tmpdir(), 'tromix-order-'));
});
afterAll(() => rm(folder, { recursive: true }));

type RawSpans = ReturnType<typeof spansOfTrace>;
interface Batch {
  spans: RawSpans;
  /** What came so far is booked before the next comes. */
  settle: boolean;
}

/** Sends batches to a new server and tells what stands in its tables, with names in place of numbers. */
async function booked(batches: readonly Batch[]): Promise<Record<string, unknown[]>> {
  const url = `file:${path.join(folder, `${databases++}.sqlite`)}`;
  const writer = await openWriter(url);
  for (const { spans, settle } of batches) {
    const text = JSON.stringify({ resourceSpans: resourceSpansOf(spans) });
    await writer.ingest(new TextEncoder().encode(text), 'json', false);
    if (settle) await writer.settle(Date.now(), true);
  }
  await writer.settle(Date.now(), true);
  await writer.close();
  const client = openDatabase(url);
  const tables: Record<string, unknown[]> = {};
  for (const [name, sql] of Object.entries(TABLES)) {
    const { rows, columns } = await client.execute(sql);
    tables[name] = rows.map((row) => columns.map((column, i) => valueOf(column, row[i])));
  }
  client.close();
  return tables;
}
/** Sketches as the buckets in them: there may be room for others beside. */
const valueOf = (column: string, value: unknown): unknown =>
  column.includes('sketch')
    ? [...pairsOf(readSketch(String(value)))].filter(([, count]) => count !== 0)
    : value;

const PLACES = `LEFT JOIN endpoints e ON e.id = t.endpoint_id LEFT JOIN services s ON s.id = e.service_id
  LEFT JOIN hosts h ON h.id = t.host_id LEFT JOIN releases l ON l.id = t.release_id`;
const NAMES = 's.name AS service, e.name AS endpoint, h.name AS host, l.name AS "release"';
const TABLES = {
  spans:
    'SELECT trace_id, span_id, parent_id, start_us, duration_ns, name, attributes FROM spans ORDER BY 1, 2',
  requests: `SELECT t.trace_id, t.span_id, ${NAMES}, t.start_us, t.duration_ns, t.failed, t.exclusive_ns, t.call_count, t.span_count,
    t.finding_count, t.rules, ${LEDGER_KEYS.map((key) => `t.${columnOf(key)}`).join(', ')} FROM requests t ${PLACES} ORDER BY 1, 2`,
  findings: `SELECT t.trace_id, t.span_id, ${NAMES}, t.rule, t.subject, t.severity, t.cost_ns, t.is_first
    FROM findings t ${PLACES} ORDER BY 1, 2, 7, 8, 10, 11`,
  rollups: `SELECT t.step, t.margin, t.at, ${NAMES}, ${Object.keys(REQUEST_ROLLUP.sums)
    .map((column) => `t.${column}`)
    .join(', ')}, t.sketch, t.failed_sketch
    FROM rollups t ${PLACES} WHERE t.count > 0 ORDER BY 1, 2, 3, 4, 5, 6, 7`,
  calls: `SELECT t.step, t.at, ${NAMES}, g.kind, g.fingerprint, t.requests, t.calls, t.total_ns, t.booked_ns, t.failed, t.retried, t.rows, t.sketch
    FROM call_rollups t JOIN call_groups g ON g.id = t.group_id ${PLACES} WHERE t.calls > 0 ORDER BY 1, 2, 3, 4, 5, 6, 7, 8`,
  findingSums: `SELECT t.step, t.margin, t.at, ${NAMES}, u.rule, u.subject, t.requests, t.cost_ns
    FROM finding_rollups t JOIN finding_subjects u ON u.id = t.subject_id ${PLACES} WHERE t.requests > 0 ORDER BY 1, 2, 3, 4, 5, 6, 7, 8, 9`,
  background: `SELECT t.trace_id, t.span_id, t.name, t.start_us, t.duration_ns, t.failed, t.span_count, t.call_count FROM background_work t ORDER BY 1, 2`,
  pending: 'SELECT * FROM pending_traces'
};

const START = 1_700_000_000_000;
const deliveries = fc.array(anySpans, { minLength: 1, maxLength: 3 }).chain((traces) => {
  const spans = traces.flatMap((shapes, i) => spansOfTrace(shapes, i + 1, START + i * 40_000));
  return fc.record({
    spans: fc.constant(spans),
    order: fc.shuffledSubarray(
      spans.map((_, i) => i),
      { minLength: spans.length }
    ),
    cuts: fc.array(fc.nat(spans.length), { maxLength: 4 }),
    settles: fc.array(fc.boolean(), { minLength: 6, maxLength: 6 }),
    again: fc.array(fc.nat(spans.length - 1), { maxLength: 8 })
  });
});

it('books the same whatever way spans come', async () => {
  await fc.assert(
    fc.asyncProperty(deliveries, async ({ spans, order, cuts, settles, again }) => {
      const atOnce = await booked([{ spans, settle: false }]);
      const bounds = [0, ...cuts.toSorted((a, b) => a - b), spans.length];
      const pieces = bounds.slice(1).map((end, i): Batch => {
        const part = order.slice(bounds[i], end).map((at) => spans[at]);
        return { spans: part, settle: settles[i] };
      });
      const resent: Batch = { spans: again.map((at) => spans[at]), settle: true };
      const inPieces = await booked([...pieces.filter((piece) => piece.spans.length > 0), resent]);
      for (const table of Object.keys(TABLES)) expect(inPieces[table], table).toEqual(atOnce[table]);
      expect(atOnce.pending).toEqual([]);
      expect(atOnce.requests.length + atOnce.background.length).toBeGreaterThan(0);
    }),
    { numRuns: 25 }
  );
}, 120_000);
