import { ROLLUP_SUMS } from '../db/ledger-columns';
import { STEPS } from '$lib/roll-up-steps';
import type { RollupShape } from './rollup';

/** Requests by endpoint, host and release; of all hosts and releases; and of everything. */
export const REQUEST_ROLLUP: RollupShape = {
  table: 'rollups',
  key: ['margin', 'endpoint_id', 'host_id', 'release_id'],
  sums: ROLLUP_SUMS,
  greatest: [],
  sketches: ['sketch', 'failed_sketch'],
  steps: STEPS,
  margins: [
    { margin: 1, host_id: 0, release_id: 0 },
    { margin: 2, endpoint_id: 0, host_id: 0, release_id: 0 }
  ]
};

export const CALL_SUMS = [
  'requests',
  'calls',
  'total_ns',
  'booked_ns',
  'failed',
  'retried',
  'on_round',
  'rows',
  'rows_known',
  'bytes_read',
  'bytes_written'
] as const;
export const CALL_GREATEST = ['slowest_ns', 'most_calls'] as const;

/** Parts of requests by who asks. */
export const CALL_ROLLUP: RollupShape = {
  table: 'call_rollups',
  key: ['group_id', 'origin_id', 'endpoint_id', 'host_id', 'release_id'],
  sums: CALL_SUMS,
  greatest: CALL_GREATEST,
  sketches: ['sketch'],
  steps: [1, 60, 1440],
  margins: []
};

/** Findings by what was found and where; of all hosts and releases. */
export const FINDING_ROLLUP: RollupShape = {
  table: 'finding_rollups',
  key: ['margin', 'subject_id', 'endpoint_id', 'host_id', 'release_id'],
  sums: ['requests', 'cost_ns'],
  greatest: [],
  sketches: [],
  steps: [1, 60, 1440],
  margins: [{ margin: 1, host_id: 0, release_id: 0 }]
};
