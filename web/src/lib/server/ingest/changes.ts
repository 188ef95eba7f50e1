import { isOfGroup } from '../db/of-group';
import type { InStatement } from '@libsql/client';
import { maskText } from '@tromix/core/mask/text';
import { wellFormed } from '@tromix/core/text/well-formed';
import type { KeepRule } from '@tromix/core/trace/keep-rules';
import { insert, namedIn, update } from '../db/one-row';
import { rowsOf } from '../db/rows';
import { CASE_CHANGES } from './case-changes';
import { PROFILE_SUM_CHANGES, removeSums } from './profile-sums';
import { WATCH_CHANGES } from './watch-changes';
import * as tables from '../db/schema';

/** A finding of an endpoint, over all its requests. */
export interface MarkedFinding {
  service: string;
  endpoint: string;
  rule: string;
  subject: string;
}
type Recording = typeof tables.recordings.$inferInsert;

/** Deeds that are remembered. */
const MAX_DONE = 1000;
const NAMES = rowsOf(tables.evidenceNames);

const nowUs = (): number => Date.now() * 1000;

const unmark = ({ service, endpoint, rule, subject }: MarkedFinding): InStatement => ({
  sql: 'DELETE FROM finding_marks WHERE service = ? AND endpoint = ? AND rule = ? AND subject = ?',
  args: [service, endpoint, rule, subject]
});

/** Everything that is changed in the database besides what evidence brings, by name: nothing outside of the writer's thread words SQL that writes. */
export const CHANGES = {
  ...CASE_CHANGES,
  ...PROFILE_SUM_CHANGES,
  ...WATCH_CHANGES,

  setApdexT: (endpoint: number, tMs: number): InStatement[] => [
    { sql: 'UPDATE endpoints SET apdex_t_ms = ? WHERE id = ?', args: [tMs, endpoint] }
  ],
  setKeepRules: (rules: readonly KeepRule[]): InStatement[] => [
    { sql: 'DELETE FROM keep_rules', args: [] },
    ...rules.map((rule) => insert('INSERT', tables.keepRules, { body: JSON.stringify(rule) }))
  ],
  /** The profile that a page made of itself while it loaded. */
  putPageProfile: (load: string, evidence: string): InStatement[] => [
    { sql: 'UPDATE page_loads SET profile = ? WHERE trace_id = ?', args: [evidence, load] }
  ],
  keepOldTraces: (source: string): InStatement[] => [
    { sql: 'UPDATE old_traces SET keep = 1 WHERE source = ?', args: [source] }
  ],

  /** A prediction and what was measured; judged anew, it stands in the place of the earlier one. */
  keepPrediction: (row: Omit<typeof tables.predictions.$inferInsert, 'id' | 'atUs'>): InStatement[] => [
    insert('INSERT OR REPLACE', tables.predictions, { ...row, atUs: nowUs() })
  ],

  /** @param costNs per request, by which it comes back when it costs much more */
  setFindingAside: (finding: MarkedFinding, reason: string, costNs: number): InStatement[] => [
    unmark(finding),
    insert('INSERT', tables.findingMarks, {
      ...finding,
      reason,
      atUs: nowUs(),
      costNs: Math.round(costNs)
    })
  ],
  takeFindingUp: (finding: MarkedFinding): InStatement[] => [unmark(finding)],

  /** @param moreTimes for one that is ignored: until it happened so many times more; 0 for until a new release alone */
  markFailure: (
    groupId: number,
    kind: 'fixed' | 'ignored',
    release: string,
    moreTimes: number
  ): InStatement[] => [
    {
      sql: `INSERT OR REPLACE INTO failure_marks (group_id, kind, release, more_times, times_then, at_us)
        VALUES (?1, ?2, ?3, ?4, (SELECT coalesce(sum(times), 0) FROM failure_rollups WHERE ${isOfGroup('group_id', '?1')} AND step = 1440 AND margin = 1), ?5)`,
      args: [groupId, kind, release, moreTimes, nowUs()]
    }
  ],
  /** With those that were merged into it before. */
  mergeFailure: (groupId: number, intoId: number): InStatement[] => [
    { sql: 'UPDATE failure_merges SET into_id = ? WHERE into_id = ?', args: [intoId, groupId] },
    {
      sql: 'INSERT OR REPLACE INTO failure_merges (group_id, into_id) VALUES (?, ?)',
      args: [groupId, intoId]
    }
  ],
  partFailure: (groupId: number): InStatement[] => [
    { sql: 'DELETE FROM failure_merges WHERE group_id = ?', args: [groupId] }
  ],
  unmarkFailure: (groupId: number): InStatement[] => [
    { sql: 'DELETE FROM failure_marks WHERE group_id = ?', args: [groupId] }
  ],

  storeSession: (session: typeof tables.sessions.$inferInsert): InStatement[] => [
    { sql: 'DELETE FROM sessions WHERE expires_at_us <= ?', args: [nowUs()] },
    insert('INSERT OR REPLACE', tables.sessions, session)
  ],
  endSession: (id: string): InStatement[] => [{ sql: 'DELETE FROM sessions WHERE id = ?', args: [id] }],
  /** @param except one that goes on; '' for none */
  endSessions: (except: string): InStatement[] => [
    { sql: 'DELETE FROM sessions WHERE id <> ?', args: [except] }
  ],

  /** A name that is there already is given to the new scope. */
  saveScope: (name: string, query: string): InStatement[] => [
    insert('INSERT OR REPLACE', tables.savedScopes, { name, query })
  ],
  removeScope: (id: number): InStatement[] => [{ sql: 'DELETE FROM saved_scopes WHERE id = ?', args: [id] }],

  addRecording: (recording: Recording): InStatement[] => [insert('INSERT', tables.recordings, recording)],
  updateRecording: (id: string, change: Partial<Recording>): InStatement[] => [
    update(tables.recordings, id, change)
  ],
  removeRecording: (id: string): InStatement[] => [
    { sql: 'DELETE FROM recordings WHERE id = ?', args: [id] }
  ],
  addPlan: (id: string, plan: object): InStatement[] => [
    insert('INSERT', tables.recordingPlans, { id, body: JSON.stringify(plan), createdAtUs: nowUs() })
  ],
  updatePlan: (id: string, plan: object): InStatement[] => [
    { sql: 'UPDATE recording_plans SET body = ? WHERE id = ?', args: [JSON.stringify(plan), id] }
  ],
  /** Notes what was done to a running process. */
  noteDone: (who: string, what: string): InStatement[] => [
    insert('INSERT', tables.doneLog, { atUs: nowUs(), who, what }),
    {
      sql: `DELETE FROM done_log WHERE id <= (SELECT max(id) FROM done_log) - ${MAX_DONE}`,
      args: []
    }
  ],
  removePlan: (id: string): InStatement[] => [
    { sql: 'DELETE FROM recording_plans WHERE id = ?', args: [id] }
  ],

  updateLoadRun: (key: string, change: Partial<typeof tables.loadRuns.$inferInsert>): InStatement[] => {
    const { names, values } = namedIn(tables.loadRuns, change);
    return [
      {
        sql: `UPDATE load_runs SET ${names.map((name) => `${name} = ?`).join(', ')} WHERE key = ?`,
        args: [...values, key]
      }
    ];
  },

  /** Runs that are under way no more, though nobody said how they ended. */
  endLoadRuns: (state: string, message: string): InStatement[] => [
    {
      sql: "UPDATE load_runs SET state = ?, message = ? WHERE state = 'running'",
      args: [state, message]
    }
  ],

  summarise: (evidenceId: string, summary: object): InStatement[] => [
    update(tables.evidence, evidenceId, { summary: JSON.stringify(summary) })
  ],
  /** @param names of functions, classes or threads in it */
  nameEvidence: (evidenceId: string, names: readonly string[]): InStatement[] => [
    NAMES.insert(
      'INSERT OR IGNORE',
      names.map((name) => ({ evidenceId, name: maskText(wellFormed(name), 'name') }))
    )
  ],
  removeEvidence: (id: string): InStatement[] => [
    ...removeSums(id),
    { sql: 'DELETE FROM evidence WHERE id = ?', args: [id] },
    { sql: 'DELETE FROM statement_groups WHERE evidence_id = ?', args: [id] },
    { sql: 'DELETE FROM evidence_names WHERE evidence_id = ?', args: [id] },
    // A crash stays counted, as requests do whose traces went.
    { sql: "DELETE FROM failures WHERE trace_id = '' AND span_id = '' AND at_span_id = ?", args: [id] },
    { sql: "DELETE FROM load_runs WHERE evidence_id = ? AND evidence_id <> ''", args: [id] }
  ]
};
export type Changes = typeof CHANGES;
export type ChangeName = keyof Changes;
