import type { InStatement } from '@libsql/client';
import type { Case, CaseState, Entry } from '@tromix/core/case/case';

// Changes to cases, by name (see `changes.ts`). What somebody else changed meanwhile is never overwritten: a change names the version it was made from, and
// does nothing where that is not the present one any more.

export interface CaseEvidence {
  traces: readonly string[];
  files: readonly string[];
}

interface Statement {
  sql: string;
  args: (string | number)[];
}

const nowUs = (): number => Date.now() * 1000;

const touch = (caseId: string): InStatement => ({
  sql: 'UPDATE cases SET changed_at_us = ? WHERE id = ?',
  args: [nowUs(), caseId]
});

const insertEntry = (
  verb: string,
  caseId: string,
  { id, atUs, title, text, pin, version }: Entry
): InStatement => ({
  sql: `${verb} INTO case_entries (id, case_id, place, at_us, title, text, pin, version)
    VALUES (?1, ?2, (SELECT coalesce(max(place), 0) + 1 FROM case_entries WHERE case_id = ?2), ?3, ?4, ?5, ?6, ?7)`,
  args: [id, caseId, atUs, title, text, pin ? JSON.stringify(pin) : '', version]
});

const keep = (caseId: string, { traces, files }: CaseEvidence): Statement[] =>
  (
    [
      ['trace', traces],
      ['file', files]
    ] as const
  ).map(([kind, refs]) => ({
    sql: 'INSERT OR IGNORE INTO case_evidence (case_id, kind, ref) SELECT ?, ?, value FROM json_each(?) WHERE true',
    args: [caseId, kind, JSON.stringify(refs)]
  }));
const letGo = (caseId: string): Statement => ({
  sql: 'DELETE FROM case_evidence WHERE case_id = ?',
  args: [caseId]
});
/** @param statement it ends with a condition, to which another can be added */
const ifVersion = ({ sql, args }: Statement, id: string, version: number): Statement => ({
  sql: `${sql} AND EXISTS (SELECT 1 FROM cases WHERE id = ? AND version = ?)`,
  args: [...args, id, version]
});

export const CASE_CHANGES = {
  /** One that is there already stays as it is. */
  openCase: (one: Case, evidence: CaseEvidence): InStatement[] => [
    {
      sql: 'INSERT OR IGNORE INTO cases (id, question, state, told, created_at_us, changed_at_us, version) VALUES (?, ?, ?, ?, ?, ?, ?)',
      args: [one.id, one.question, one.state, one.told, one.createdAtUs, nowUs(), one.version]
    },
    ...one.entries.map((entry) => insertEntry('INSERT OR IGNORE', one.id, entry)),
    ...keep(one.id, evidence)
  ],
  /** @param evidence what it keeps from now on */
  changeCase: (
    id: string,
    version: number,
    { question, state, told }: { question: string; state: CaseState; told: string },
    evidence: CaseEvidence
  ): InStatement[] => [
    // Before the version moves on: a change that comes too late does nothing at all.
    ...[letGo(id), ...keep(id, evidence)].map((statement) => ifVersion(statement, id, version)),
    {
      sql: 'UPDATE cases SET question = ?, state = ?, told = ?, changed_at_us = ?, version = version + 1 WHERE id = ? AND version = ?',
      args: [question, state, told, nowUs(), id, version]
    }
  ],
  removeCase: (id: string): InStatement[] => [
    { sql: 'DELETE FROM cases WHERE id = ?', args: [id] },
    { sql: 'DELETE FROM case_entries WHERE case_id = ?', args: [id] },
    letGo(id)
  ],
  addEntry: (caseId: string, entry: Entry, evidence: CaseEvidence): InStatement[] => [
    insertEntry('INSERT OR IGNORE', caseId, entry),
    ...keep(caseId, evidence),
    touch(caseId)
  ],
  changeEntry: (
    caseId: string,
    id: string,
    version: number,
    { title, text, sentence = null }: Pick<Entry, 'title' | 'text'> & { sentence?: string | null }
  ): InStatement[] => [
    {
      // What a pin says in words may be put better; its figures and its picture stay as they were.
      sql: `UPDATE case_entries SET title = ?1, text = ?2, version = version + 1,
          pin = iif(?3 IS NULL OR pin = '', pin, json_set(pin, '$.sentence', ?3))
        WHERE id = ?4 AND case_id = ?5 AND version = ?6`,
      args: [title, text, sentence, id, caseId, version]
    },
    touch(caseId)
  ],
  removeEntry: (caseId: string, id: string, evidence: CaseEvidence): InStatement[] => [
    { sql: 'DELETE FROM case_entries WHERE id = ? AND case_id = ?', args: [id, caseId] },
    letGo(caseId),
    ...keep(caseId, evidence),
    touch(caseId)
  ],
  /** @param ids all of the case in their new order; those that are not named keep their places behind */
  orderEntries: (caseId: string, ids: readonly string[]): InStatement[] => [
    {
      sql: `UPDATE case_entries SET place = (SELECT key + 1 FROM json_each(?1) WHERE value = case_entries.id)
        WHERE case_id = ?2 AND id IN (SELECT value FROM json_each(?1))`,
      args: [JSON.stringify(ids), caseId]
    },
    touch(caseId)
  ]
};
