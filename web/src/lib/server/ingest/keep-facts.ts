import type { KeepFacts, KeepRule } from '@tromix/core/trace/keep-rules';
import { jsonOf, objectsOf, type Database } from '../db/database';

type FactRow = [string, string, string, string, number, number, number, string];

/** The keep rules in their order. */
export async function loadKeepRules(database: Database): Promise<KeepRule[]> {
  const rows = await objectsOf<{ body: string }>(database, 'SELECT body FROM keep_rules ORDER BY id');
  return rows.map(({ body }) => JSON.parse(body) as KeepRule);
}

/** Tells whether a request's list of attribute values holds one by name and text. */
type AttributeTest = (pairs: string, name: string, value: string) => boolean;

async function loadAttributeTest(database: Database): Promise<AttributeTest> {
  const rows = await objectsOf<{ id: number; name: string; value: string }>(
    database,
    'SELECT id, name, value FROM attribute_values'
  );
  const ids = new Map(rows.map(({ id, name, value }) => [JSON.stringify([name, value]), id]));
  return (pairs, name, value) => {
    const id = ids.get(JSON.stringify([name, value]));
    return id !== undefined && pairs.includes(` ${id} `);
  };
}

/** What these keep rules look at: every request of the traces that have one that began within [from, to). */
export async function keepFacts(
  database: Database,
  rules: readonly KeepRule[],
  fromUs: number,
  toUs: number
): Promise<KeepFacts[]> {
  const asked = rules.some(({ when }) => when === 'attribute');
  const hasValue: AttributeTest = asked ? await loadAttributeTest(database) : () => false;
  const rows = await jsonOf<FactRow>(
    database,
    `SELECT json_group_array(json_array(r.trace_id, s.name, e.name, h.name, r.start_us, r.duration_ns, r.failed, r.pairs))
      FROM requests r JOIN services s ON s.id = r.service_id JOIN endpoints e ON e.id = r.endpoint_id JOIN hosts h ON h.id = r.host_id
      WHERE r.trace_id IN (SELECT trace_id FROM requests WHERE start_us >= ? AND start_us < ?)`,
    [fromUs, toUs]
  );
  return rows.map(([traceId, service, endpoint, host, startUs, durationNs, failed, pairs]) => ({
    traceId,
    service,
    endpoint,
    host,
    startUs,
    durationNs,
    failed: failed === 1,
    has: (name, value) => hasValue(pairs, name, value)
  }));
}
