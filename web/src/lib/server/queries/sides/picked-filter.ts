import { WARMING_SECONDS, type Leavable } from '$lib/compared-scopes';
import type { Scope, TimeWindow } from '$lib/scope';
import { requestsFilter, type Filter } from '../filter';

/** Conditions on `requests r` of a side. */
export function pickedFilter(scope: Scope, leave: readonly Leavable[], window: TimeWindow): Filter {
  const { sql, args } = requestsFilter(scope, window);
  const conditions = leave.flatMap((what) => LEFT_OUT[what]?.(scope) ?? []);
  return {
    sql: [sql, ...conditions.map((condition) => condition.sql)].join(' AND '),
    args: [...args, ...conditions.flatMap((condition) => condition.args)]
  };
}

const LEFT_OUT: Record<Leavable, (scope: Scope) => Filter | null> = {
  failed: () => ({ sql: 'r.failed = 0', args: [] }),
  cold: () => ({
    sql: 'NOT EXISTS (SELECT 1 FROM resources p WHERE p.id = r.resource_id AND p.first_us = r.start_us)',
    args: []
  }),
  warming: ({ run }) =>
    run === undefined
      ? null
      : {
          sql: 'r.start_us >= (SELECT started_at_us FROM load_runs WHERE id = ?) + ?',
          args: [run, WARMING_SECONDS * 1e6]
        }
};
