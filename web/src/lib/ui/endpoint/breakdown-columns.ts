import type { BreakdownRow } from '$lib/server/queries/endpoint';
import type { Column } from '../tables/columns';
import { countColumn, durationColumn, rareColumn, shareColumn } from '../tables/column-makers';

const FIRST: Column<BreakdownRow>[] = [
  { key: 'part', title: 'part', width: 200, grows: true, wants: 280, value: ({ name }) => name },
  shareColumn('share', 'share', ({ share }) => share, {
    about:
      'Of the time of these requests: the part of the critical path inside it, with what the called side did'
  })
];
const PER_REQUEST: Column<BreakdownRow>[] = [
  {
    key: 'calls',
    title: 'calls/request',
    about: 'Over all requests, also those that make none',
    width: 92,
    right: true,
    value: ({ callsPerRequest }) => callsPerRequest,
    text: ({ callsPerRequest }) => callsPerRequest.toFixed(callsPerRequest < 10 ? 1 : 0)
  },
  durationColumn('time', 'time/request', ({ nsPerRequest }) => nsPerRequest, {
    about: 'Sum of the durations, also of calls that ran in parallel',
    width: 92
  }),
  durationColumn('booked', 'booked/request', ({ bookedPerRequest }) => bookedPerRequest, {
    about: 'The part of the critical path',
    width: 100
  })
];
const PER_CALL: Column<BreakdownRow>[] = [
  countColumn('count', 'calls', ({ calls }) => calls, { width: 92 }),
  durationColumn('mean', 'mean', ({ nsPerCall }) => nsPerCall, { width: 92 }),
  durationColumn('p95', 'p95', ({ p95Ns }) => p95Ns, { about: 'Within 1 %', width: 100 })
];
const LAST: Column<BreakdownRow>[] = [
  countColumn('most', 'most in one', ({ mostCalls }) => mostCalls, { about: 'Most calls in one request' }),
  rareColumn('failed', 'failed', ({ failed }) => failed, { width: 60 })
];

/** Columns of what a request is made of: figures per request, or per call. */
export const breakdownColumns = (perCall: boolean): Column<BreakdownRow>[] => [
  ...FIRST,
  ...(perCall ? PER_CALL : PER_REQUEST),
  ...LAST
];
