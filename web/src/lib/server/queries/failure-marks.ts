import {
  failureState,
  type FailureMark,
  type FailureState,
  type SeenIn
} from '@tromix/core/failures/mark-state';
import { select } from '../db/reader';
import { isOfGroup } from '../db/of-group';
import { FAILURE_ROLLUP } from '../ingest/rollup-shapes';

const { steps } = FAILURE_ROLLUP;
const US_PER_MINUTE = 60e6;

interface MarkRow extends FailureMark {
  id: number;
  /** How often it happened in all. */
  times: number;
}

/** What became of the groups that are marked, by group. */
export async function markedOf(
  ids: readonly number[]
): Promise<Map<number, { state: FailureState; mark: FailureMark }>> {
  const marks = await select<MarkRow>(
    `SELECT m.group_id AS id, m.kind, m.release, m.more_times AS moreTimes, m.times_then AS timesThen, m.at_us AS atUs,
        (SELECT coalesce(sum(times), 0) FROM failure_rollups f WHERE ${isOfGroup('f.group_id', 'm.group_id')} AND f.step = 1440 AND f.margin = 1) AS times
      FROM failure_marks m WHERE m.group_id IN (SELECT value FROM json_each(?))`,
    [JSON.stringify(ids)]
  );
  const seen = await Promise.all(marks.map(({ id }) => seenInReleases(id)));
  return new Map(
    marks.map(({ id, times, ...mark }, i) => {
      const fixing = seen[i].find(({ release }) => release === mark.release);
      return [id, { mark, state: failureState(mark, times, seen[i], fixing?.releaseUs ?? null) }];
    })
  );
}

/** Releases of the services in which a group happens, and when it last happened in each; those in which it did not, with 0. */
async function seenInReleases(id: number): Promise<(SeenIn & { releaseUs: number })[]> {
  const last = steps
    .map(
      (step) =>
        `coalesce((SELECT max(f.at) FROM failure_rollups f WHERE ${isOfGroup('f.group_id', '?1')} AND f.step = ${step} AND f.margin = 0 AND f.release_id = l.id), 0) * ${step * US_PER_MINUTE}`
    )
    .join(', ');
  return select<SeenIn & { releaseUs: number }>(
    `SELECT l.name AS release, l.first_us AS firstUs, l.first_us AS releaseUs, max(${last}) AS lastUs FROM releases l
      WHERE l.service_id IN (SELECT DISTINCT o.service_id FROM failure_rollups f JOIN releases o ON o.id = f.release_id WHERE ${isOfGroup('f.group_id', '?1')} AND f.step = 1440 AND f.margin = 0)`,
    [id]
  );
}
