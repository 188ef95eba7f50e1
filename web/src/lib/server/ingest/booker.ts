import type { InStatement } from '@libsql/client';
import { oneOf } from '../db/bulk';
import { jsonOf, type Database } from '../db/database';
import {
  BACKGROUND,
  COUNTED_FAILURES,
  COUNTED_FINDINGS,
  COUNTED_REQUESTS,
  FAILURES,
  FINDINGS,
  PARTS,
  partsRow,
  REQUESTS,
  type Booked,
  type CountedFailure,
  type CountedFinding,
  type FailureRecord
} from './booked-rows';
import type { Dictionary } from './dictionary';
import { readParts } from './parts-row';
import { RollupDelta } from './rollup';
import {
  CALL_ROLLUP,
  FAILURE_ROLLUP,
  FINDING_ROLLUP,
  OUTGOING_ROLLUP,
  REQUEST_ROLLUP,
  RUN_CALL_ROLLUP,
  RUN_FAILURE_ROLLUP,
  RUN_FINDING_ROLLUP,
  RUN_OUTGOING_ROLLUP,
  RUN_REQUEST_ROLLUP,
  type CountedPart
} from './rollup-shapes';

/** The sums of requests, of their parts and of findings; of all, or of load runs. */
const ofAll = () => ({
  requests: new RollupDelta(REQUEST_ROLLUP),
  calls: new RollupDelta(CALL_ROLLUP),
  outgoing: new RollupDelta(OUTGOING_ROLLUP),
  findings: new RollupDelta(FINDING_ROLLUP),
  failures: new RollupDelta(FAILURE_ROLLUP)
});
const ofRuns = (): ReturnType<typeof ofAll> => ({
  requests: new RollupDelta(RUN_REQUEST_ROLLUP),
  calls: new RollupDelta(RUN_CALL_ROLLUP),
  outgoing: new RollupDelta(RUN_OUTGOING_ROLLUP),
  findings: new RollupDelta(RUN_FINDING_ROLLUP),
  failures: new RollupDelta(RUN_FAILURE_ROLLUP)
});

/** What is added to the sums, and taken out of them. What a load run caused counts twice: with everything, and by itself. */
class Sums {
  readonly #all = ofAll();
  readonly #runs = ofRuns();

  addRequest(request: CountedPart['request'], parts: readonly CountedPart['part'][], sign: 1 | -1): void {
    for (const { requests, calls, outgoing } of this.#sumsOf(request)) {
      requests.add(request, sign);
      for (const part of parts) {
        calls.add({ request, part }, sign);
        for (const sums of part.outgoing) outgoing.add({ request, part, sums }, sign);
      }
    }
  }

  addFinding(finding: CountedFinding, sign: 1 | -1): void {
    for (const { findings } of this.#sumsOf(finding)) findings.add(finding, sign);
  }

  addFailure(failure: CountedFailure, sign: 1 | -1): void {
    for (const { failures } of this.#sumsOf(failure)) failures.add(failure, sign);
  }

  #sumsOf({ run }: { run: number }): ReturnType<typeof ofAll>[] {
    return run > 0 ? [this.#all, this.#runs] : [this.#all];
  }

  get firstMinute(): number {
    return Math.min(this.#all.requests.firstMinute, this.#all.failures.firstMinute);
  }

  async statements(database: Database): Promise<InStatement[]> {
    const statements: InStatement[] = [];
    for (const { requests, calls, outgoing, findings, failures } of [this.#all, this.#runs])
      for (const rollup of [requests, calls, outgoing, findings, failures])
        statements.push(...(await rollup.statements(database)));
    return statements;
  }
}

/**
 * What stores booked traces and adds them to the roll-ups. A trace that was booked before (late spans) is taken out of
 * everything first. One that was counted once and removed since is stored, but not counted again.
 * @param read up to which mark each trace's spans were read: a mark that is newer stays.
 * @returns the statements of one transaction; what the dictionary noted meanwhile belongs before them. Nothing else may
 * write between this and that transaction. And the first minute whose sums they change.
 */
export async function bookingStatements(
  database: Database,
  dictionary: Dictionary,
  booked: Booked,
  read: ReadonlyMap<string, number>
): Promise<{ statements: InStatement[]; firstMinute: number }> {
  const ids = JSON.stringify(booked.traceIds);
  const sums = new Sums();
  const counted = await countedBefore(database, ids);
  const isNew = ({ traceId }: { traceId: string }): boolean => !counted.has(traceId);
  const wereBooked = await takeOut(database, dictionary, ids, sums, isNew);
  for (const { row, parts } of booked.requests) if (isNew(row)) sums.addRequest(row, parts, 1);
  for (const { row, subjectId, run } of booked.findings)
    if (isNew(row)) sums.addFinding({ ...row, subjectId, run }, 1);
  for (const row of booked.failures) if (isNew(row)) sums.addFailure(row, 1);
  return {
    statements: [
      ...removal(ids, wereBooked),
      ...insertion(booked),
      ...(await sums.statements(database)),
      {
        sql: 'DELETE FROM pending_traces WHERE (trace_id, generation) IN (SELECT value->>0, value->>1 FROM json_each(?))',
        args: [JSON.stringify([...read])]
      }
    ],
    firstMinute: sums.firstMinute
  };
}

/**
 * What stores failures that happened outside of every trace, and adds them to the roll-ups.
 * @returns the statements, and the first minute whose sums they change.
 */
export async function failureStatements(
  database: Database,
  failures: readonly FailureRecord[]
): Promise<{ statements: InStatement[]; firstMinute: number }> {
  if (failures.length === 0) return { statements: [], firstMinute: Infinity };
  const sums = new Sums();
  for (const failure of failures) sums.addFailure(failure, 1);
  return {
    statements: [FAILURES.insert('INSERT', failures), ...(await sums.statements(database))],
    firstMinute: sums.firstMinute
  };
}

/** Takes what is stored of some traces out of the sums. @returns whether anything was. */
async function takeOut(
  database: Database,
  dictionary: Dictionary,
  ids: string,
  sums: Sums,
  isNew: (row: { traceId: string }) => boolean
): Promise<boolean> {
  const before = await database.query(
    `SELECT ${COUNTED_REQUESTS.select('r')}, p.parts FROM requests r
      LEFT JOIN request_parts p ON p.trace_id = r.trace_id AND p.span_id = r.span_id WHERE ${oneOf('r.trace_id')}`,
    [ids]
  );
  const failed = await takeOutFailures(database, ids, sums, isNew);
  if (before.rows.length === 0) return failed;
  const runs = new Map<string, number>();
  for (const row of before.rows) {
    const request = COUNTED_REQUESTS.read(row);
    runs.set(request.traceId, request.run);
    const parts = String(row[COUNTED_REQUESTS.width] ?? '[]');
    if (isNew(request)) sums.addRequest(request, readParts(parts), -1);
  }
  const found = await database.query(
    `SELECT ${COUNTED_FINDINGS.select('f')} FROM findings f WHERE ${oneOf('f.trace_id')}`,
    [ids]
  );
  const gone = found.rows
    .map((row) => COUNTED_FINDINGS.read(row))
    .filter(isNew)
    .map((finding) => ({ finding, subject: dictionary.findingSubject(finding.rule, finding.subject) }));
  await dictionary.learn(database);
  for (const { finding, subject } of gone)
    sums.addFinding({ ...finding, subjectId: subject.id, run: runs.get(finding.traceId) ?? 0 }, -1);
  return true;
}

/** Also work that serves nobody fails: its failures stand without a request. */
async function takeOutFailures(
  database: Database,
  ids: string,
  sums: Sums,
  isNew: (row: { traceId: string }) => boolean
): Promise<boolean> {
  const { rows } = await database.query(
    `SELECT ${COUNTED_FAILURES.select('f')} FROM failures f WHERE ${oneOf('f.trace_id')}`,
    [ids]
  );
  for (const failure of rows.map((row) => COUNTED_FAILURES.read(row)))
    if (isNew(failure)) sums.addFailure(failure, -1);
  return rows.length > 0;
}

/** Rows that a booking writes anew. @param wereBooked whether there are any besides background work. */
function removal(ids: string, wereBooked: boolean): InStatement[] {
  const tables = [
    'background_work',
    ...(wereBooked ? ['requests', 'request_parts', 'findings', 'failures'] : [])
  ];
  return tables.map((table) => ({ sql: `DELETE FROM ${table} WHERE ${oneOf('trace_id')}`, args: [ids] }));
}

function insertion({ requests, findings, background, failures }: Booked): InStatement[] {
  const statements: InStatement[] = [];
  if (requests.length > 0)
    statements.push(
      REQUESTS.insert(
        'INSERT',
        requests.map(({ row }) => row)
      ),
      PARTS.insert('INSERT OR REPLACE', requests.map(partsRow))
    );
  if (findings.length > 0)
    statements.push(
      FINDINGS.insert(
        'INSERT',
        findings.map(({ row }) => row)
      )
    );
  if (failures.length > 0) statements.push(FAILURES.insert('INSERT', failures));
  if (background.length > 0) statements.push(BACKGROUND.insert('INSERT', background));
  return statements;
}

/** Those of some traces that were counted once and removed since. */
async function countedBefore(database: Database, ids: string): Promise<Set<string>> {
  const list = await jsonOf<string>(
    database,
    `SELECT json_group_array(j.value) FROM json_each(?) j JOIN removed_traces t ON t.trace_id = unhex(j.value)`,
    [ids]
  );
  return new Set(list);
}
