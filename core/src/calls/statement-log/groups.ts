import { Warnings } from '../../formats/evidence-error';
import { addBucket, bucketOf, copyOf, emptySketch, mergeInto } from '../../stats/sketch';
import { inTimeRange, MAX_DURATION_NS, TIME_RANGE } from '../../trace/time-range';
import { fingerprintSql } from '../sql/fingerprint';
import type { Dialect } from '../sql/tokens';
import type { Logged, StatementGroup } from './model';

/** More rows than any table has are damage. */
const MAX_ROWS = 1e12;
const isCount = (rows: number | undefined): rows is number =>
  rows !== undefined && rows >= 0 && rows <= MAX_ROWS;

/** Groups executions by fingerprint as they come. */
export class StatementGroups {
  readonly warnings = new Warnings();
  readonly #groups = new Map<string, StatementGroup>();
  readonly #dialect: Dialect;
  statements = 0;
  firstUs: number | null = null;
  lastUs: number | null = null;

  constructor(dialect: Dialect) {
    this.#dialect = dialect;
  }

  /** Most total time first. */
  get list(): StatementGroup[] {
    return [...this.#groups.values()].sort((a, b) => b.totalNs - a.totalNs);
  }

  take(logged: Logged): void {
    if (!(logged.durationNs >= 0 && logged.durationNs <= MAX_DURATION_NS)) {
      this.warnings.add('duration-out-of-range', 'A statement took longer than 100 days; it was left out.');
      return;
    }
    this.#notice(logged.atUs);
    this.#add(this.#groupOf(logged.sql), logged);
  }

  #notice(atUs: number | null): void {
    if (atUs === null) return;
    if (!inTimeRange(atUs)) {
      this.warnings.add('time-out-of-range', `A time is outside ${TIME_RANGE}; it counts as unknown.`);
      return;
    }
    this.firstUs = Math.min(this.firstUs ?? Infinity, atUs);
    this.lastUs = Math.max(this.lastUs ?? -Infinity, atUs);
  }

  #groupOf(sql: string): StatementGroup {
    const { text } = fingerprintSql(sql, this.#dialect);
    let group = this.#groups.get(text);
    if (!group) {
      group = {
        fingerprint: text,
        verb: /^\w+/.exec(text)?.[0].toLowerCase() ?? '',
        calls: 0,
        totalNs: 0,
        slowestNs: 0,
        rows: 0,
        rowsKnown: 0,
        examined: 0,
        planNs: 0,
        lockNs: 0,
        askers: new Map(),
        sketch: emptySketch()
      };
      this.#groups.set(text, group);
    }
    return group;
  }

  #add(group: StatementGroup, logged: Logged): void {
    group.totalNs += logged.durationNs;
    group.slowestNs = Math.max(group.slowestNs, logged.durationNs);
    group.planNs += logged.planNs ?? 0;
    group.lockNs += logged.lockNs ?? 0;
    if (isCount(logged.examined)) group.examined += logged.examined;
    if (isCount(logged.rows)) {
      group.rows += logged.rows;
      group.rowsKnown++;
    }
    if (logged.goesOn) return;
    this.statements++;
    group.calls++;
    if (logged.asker) group.askers.set(logged.asker, (group.askers.get(logged.asker) ?? 0) + 1);
    addBucket(group.sketch, bucketOf(logged.durationNs / 1000), 1);
  }
}

/** Two groups as one, under the name of the first. */
export function mergeStatements(first: StatementGroup, second: StatementGroup): StatementGroup {
  const sum: StatementGroup = {
    ...first,
    calls: first.calls + second.calls,
    totalNs: first.totalNs + second.totalNs,
    slowestNs: Math.max(first.slowestNs, second.slowestNs),
    rows: first.rows + second.rows,
    rowsKnown: first.rowsKnown + second.rowsKnown,
    examined: first.examined + second.examined,
    planNs: first.planNs + second.planNs,
    lockNs: first.lockNs + second.lockNs,
    askers: new Map(first.askers),
    sketch: copyOf(first.sketch)
  };
  for (const [name, calls] of second.askers) sum.askers.set(name, (sum.askers.get(name) ?? 0) + calls);
  mergeInto(sum.sketch, second.sketch);
  return sum;
}
