import { index, integer, primaryKey, sqliteTable, text } from 'drizzle-orm/sqlite-core';
import { texts } from './columns';

// Investigations, and what they stand on.

export const cases = sqliteTable('cases', {
  /** 16 hexadecimal digits, the same in every installation a bundle of it is opened in. */
  id: text('id').primaryKey(),
  ...texts('question', 'state'),
  /** Who was told of it. */
  told: text('told').notNull().default(''),
  createdAtUs: integer('created_at_us').notNull(),
  changedAtUs: integer('changed_at_us').notNull(),
  version: integer('version').notNull().default(1)
});

export const caseEntries = sqliteTable(
  'case_entries',
  {
    id: text('id').primaryKey(),
    caseId: text('case_id').notNull(),
    /** Where it stands among the others. */
    place: integer('place').notNull(),
    atUs: integer('at_us').notNull(),
    ...texts('title', 'text'),
    /** JSON: see core/case/case.ts; '' for a note. */
    pin: text('pin').notNull().default(''),
    version: integer('version').notNull().default(1)
  },
  (t) => [index('case_entries_case').on(t.caseId, t.place)]
);

/** Traces and files that a case which is open stands on: they are not removed. */
export const caseEvidence = sqliteTable(
  'case_evidence',
  {
    caseId: text('case_id').notNull(),
    /** `trace` or `file`. */
    kind: text('kind').notNull(),
    ref: text('ref').notNull()
  },
  (t) => [primaryKey({ columns: [t.kind, t.ref, t.caseId] })]
);
