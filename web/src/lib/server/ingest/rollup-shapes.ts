import type { OutgoingSums } from '@tromix/core/calls/outgoing';
import { bucketOf, pairsOf, readSketch } from '@tromix/core/stats/sketch';
import { getTableColumns } from 'drizzle-orm';
import { STEPS } from '$lib/roll-up-steps';
import { OUTGOING_SUMS } from '../db/call-sums';
import { outgoingRollups } from '../db/schema';
import { columnOf, LEDGER_KEYS } from '../db/ledger-columns';
import type { CountedFailure, CountedFinding, CountedRequest } from './booked-rows';
import type { PartRecord } from './parts-row';
import type { Buckets, RollupShape } from './rollup';

const US_PER_MINUTE = 60_000_000;
const minuteOf = ({ startUs }: { startUs: number }): number => Math.floor(startUs / US_PER_MINUTE);
const NO_BUCKETS: Buckets = [];
const durationBuckets = ({ durationNs }: CountedRequest): Buckets => [[bucketOf(durationNs / 1000), 1]];

/** Requests by endpoint, host and release; of all hosts and releases; and of everything. */
export const REQUEST_ROLLUP: RollupShape<CountedRequest> = {
  table: 'rollups',
  minute: minuteOf,
  key: {
    margin: () => 0,
    endpoint_id: ({ endpointId }) => endpointId,
    host_id: ({ hostId }) => hostId,
    release_id: ({ releaseId }) => releaseId
  },
  sums: {
    count: () => 1,
    failed: ({ failed }) => failed,
    total_ns: ({ durationNs }) => durationNs,
    exclusive_ns: ({ exclusiveNs }) => exclusiveNs,
    call_count: ({ callCount }) => callCount,
    ...Object.fromEntries(
      LEDGER_KEYS.map((key) => [columnOf(key), (request: CountedRequest) => request[key]])
    )
  },
  greatest: {},
  sketches: {
    sketch: durationBuckets,
    failed_sketch: (request) => (request.failed === 1 ? durationBuckets(request) : NO_BUCKETS)
  },
  steps: STEPS,
  margins: [
    { margin: 1, host_id: 0, release_id: 0 },
    { margin: 2, endpoint_id: 0, host_id: 0, release_id: 0 }
  ]
};

/** A part, and the request it is of. */
export interface CountedPart {
  request: CountedRequest;
  part: PartRecord;
}

/** Parts of requests by who calls. */
export const CALL_ROLLUP: RollupShape<CountedPart> = {
  table: 'call_rollups',
  minute: ({ request }) => minuteOf(request),
  key: {
    margin: () => 0,
    group_id: ({ part }) => part.groupId,
    origin_id: ({ part }) => part.originId,
    endpoint_id: ({ request }) => request.endpointId,
    host_id: ({ request }) => request.hostId,
    release_id: ({ request }) => request.releaseId
  },
  sums: {
    requests: () => 1,
    calls: ({ part }) => part.calls,
    total_ns: ({ part }) => part.totalNs,
    booked_ns: ({ part }) => part.bookedNs,
    failed: ({ part }) => part.failed,
    retried: ({ part }) => part.retried,
    on_round: ({ part }) => part.onRound,
    rows: ({ part }) => part.rows,
    rows_known: ({ part }) => part.rowsKnown,
    bytes_read: ({ part }) => part.bytesRead,
    bytes_written: ({ part }) => part.bytesWritten,
    squares: ({ part }) => part.bookedNs ** 2
  },
  greatest: {
    slowest_ns: ({ part }) => part.slowestNs,
    most_calls: ({ part }) => part.calls
  },
  sketches: { sketch: ({ part }) => pairsOf(readSketch(part.sketch)) },
  steps: [1, 60, 1440],
  margins: []
};

/** Outgoing calls of one status, and the part of a request they are. */
export interface CountedOutgoing extends CountedPart {
  sums: OutgoingSums;
}

export const OUTGOING_COLUMNS = getTableColumns(outgoingRollups);

/** Outgoing HTTP calls by who asks and by the status of the answer. */
export const OUTGOING_ROLLUP: RollupShape<CountedOutgoing> = {
  table: 'outgoing_rollups',
  minute: CALL_ROLLUP.minute,
  key: { ...CALL_ROLLUP.key, status: ({ sums }) => sums.status },
  sums: Object.fromEntries(
    OUTGOING_SUMS.map((name) => [OUTGOING_COLUMNS[name].name, ({ sums }: CountedOutgoing) => sums[name]])
  ),
  greatest: {},
  sketches: {},
  steps: CALL_ROLLUP.steps,
  margins: []
};

/** Findings by what was found and where; of all hosts and releases. */
export const FINDING_ROLLUP: RollupShape<CountedFinding> = {
  table: 'finding_rollups',
  minute: minuteOf,
  key: {
    margin: () => 0,
    subject_id: ({ subjectId }) => subjectId,
    endpoint_id: ({ endpointId }) => endpointId,
    host_id: ({ hostId }) => hostId,
    release_id: ({ releaseId }) => releaseId
  },
  // The first of its kind in a request counts the request.
  sums: { requests: ({ isFirst }) => isFirst, cost_ns: ({ costNs }) => costNs },
  greatest: {},
  sketches: {},
  steps: [1, 60, 1440],
  margins: [{ margin: 1, host_id: 0, release_id: 0 }]
};

/** Failures by group and where they happened; and of everything. */
export const FAILURE_ROLLUP: RollupShape<CountedFailure> = {
  table: 'failure_rollups',
  minute: minuteOf,
  key: {
    margin: () => 0,
    group_id: ({ groupId }) => groupId,
    endpoint_id: ({ endpointId }) => endpointId,
    host_id: ({ hostId }) => hostId,
    release_id: ({ releaseId }) => releaseId
  },
  sums: {
    times: () => 1,
    requests: ({ isFirst }) => isFirst,
    starts: ({ passesOn }) => (passesOn === 0 ? 1 : 0),
    seen: ({ seen }) => seen
  },
  greatest: {},
  sketches: {},
  steps: [1, 60, 1440],
  margins: [{ margin: 1, endpoint_id: 0, host_id: 0, release_id: 0 }]
};

/** The same sums of what a load run caused: under minus its number, by all names, so that every view can tell it from all others. */
export const RUN_REQUEST_ROLLUP: RollupShape<CountedRequest> = {
  ...REQUEST_ROLLUP,
  key: { ...REQUEST_ROLLUP.key, margin: ({ run }) => -run },
  margins: []
};
export const RUN_CALL_ROLLUP: RollupShape<CountedPart> = {
  ...CALL_ROLLUP,
  key: { ...CALL_ROLLUP.key, margin: ({ request }) => -request.run }
};
export const RUN_OUTGOING_ROLLUP: RollupShape<CountedOutgoing> = {
  ...OUTGOING_ROLLUP,
  key: { ...OUTGOING_ROLLUP.key, margin: RUN_CALL_ROLLUP.key.margin }
};
export const RUN_FAILURE_ROLLUP: RollupShape<CountedFailure> = {
  ...FAILURE_ROLLUP,
  key: { ...FAILURE_ROLLUP.key, margin: ({ run }) => -run },
  margins: []
};
export const RUN_FINDING_ROLLUP: RollupShape<CountedFinding> = {
  ...FINDING_ROLLUP,
  key: { ...FINDING_ROLLUP.key, margin: ({ run }) => -run },
  margins: []
};
