import { ROUND_LIMITS_S, ROUND_TOLERANCE } from '../calls/round-limit';
import { CHANGE_MAX_P, CHANGE_MIN_COUNT } from '../stats/rank-test';
import { formatCount, formatDuration, formatShare } from '../text/format';
import { UNSEEN_MIN_NS, UNSEEN_MIN_SHARE } from '../trace/requests';
import { TOGETHER_MAX_GAP_NS, TOGETHER_MIN_CALL_NS, TOGETHER_MIN_SHARE } from './could-run-together';
import { FAILED_MIN_NS, FAILED_MIN_SHARE } from './failed-but-waited';
import type { Rule } from './finding';
import { LOOP_MIN_CALLS } from './loops';
import { ROUND_MIN_CALLS } from './round-timeout';
import { SLOW_CALL_MIN_NS, SLOW_CALL_SHARE } from './one-slow-call';
import { STORM_MIN_ATTEMPTS } from './retry-storm';
import { SAME_MIN_CALLS, SAME_MIN_SHARE } from './same-call-again';
import {
  COLD_MIN_NS,
  COLD_MIN_RATIO,
  GROWTH_MIN_POINTS,
  GROWTH_MIN_R2,
  ONE_HOST_MIN_RATIO,
  RELEASE_MIN_RATIO
} from './scope-findings';
import { TOO_MANY_ROWS } from './too-many-rows';
import { CONNECTION_MIN_NS, CONNECTION_MIN_SHARE } from './waits-for-connection';
import { LOCK_MIN_NS, LOCK_MIN_SHARE } from './waits-for-lock';

/** What a rule does, in words for people. */
export interface RuleText<Name extends string = Rule> {
  rule: Name;
  name: string;
  /** What it looks for. */
  looksFor: string;
  thresholds: { name: string; value: string; why: string }[];
  /** Why that makes requests slow. */
  why: string;
  /** What to do about it. */
  doThis: string;
}

const LOOP = {
  name: 'like calls',
  value: `${LOOP_MIN_CALLS} or more`,
  why: 'Fewer may be a list somebody wrote by hand; from five on it is a loop. Common practice.'
};
const SURE = {
  name: 'certainty',
  value: `p ≤ ${CHANGE_MAX_P} in a rank test, at least ${CHANGE_MIN_COUNT} requests on both sides`,
  why: 'Many rows are looked at at once, so chance must be ruled out strictly.'
};

/** Every rule about requests, in the order they are listed. */
export const REQUEST_RULES: readonly RuleText[] = [
  {
    rule: 'query-per-row',
    name: 'A query for every row',
    looksFor:
      'Like queries that the request reaches by the same path of span names, one after another or side by side, with differing or unknown values (N+1). Pages, lists of keys and session statements are none. It names the query that came before and fed the loop, and over many requests how the calls grow with its rows.',
    thresholds: [
      LOOP,
      {
        name: 'growth',
        value: `a line through at least ${GROWTH_MIN_POINTS} requests that explains ${formatShare(GROWTH_MIN_R2)}`,
        why: 'With less, nothing is said of how it grows.'
      }
    ],
    why: 'Each query is fast by itself, and so nobody suspects it. Each costs a round trip, and their number grows with the data: harmless on test data, ruinous in production.',
    doThis: 'Ask once for all rows: join it to the query before, or pass the keys as one list.'
  },
  {
    rule: 'row-by-row-writes',
    name: 'Written row by row',
    looksFor: 'The same loop, of statements that change data.',
    thresholds: [LOOP],
    why: 'Every statement is a round trip, and outside a transaction a wait for the disk as well.',
    doThis: 'Write all rows with one statement, or at least in one transaction.'
  },
  {
    rule: 'same-call-again',
    name: 'The same call again',
    looksFor:
      'Identical reads, with identical values, several times in one request, with no write in between that could have changed the answer. Failures, sequences, locking reads and polling are left out.',
    thresholds: [
      {
        name: 'identical calls',
        value: `${SAME_MIN_CALLS} or more`,
        why: 'Two may be a check and a read. Common practice.'
      },
      {
        name: 'cost',
        value: `${formatShare(SAME_MIN_SHARE)} of the request`,
        why: 'Less is not worth a sentence.'
      }
    ],
    why: 'The answer was already there.',
    doThis: 'Keep the first answer for the rest of the request.'
  },
  {
    rule: 'chatty-remote',
    name: 'A remote call for every item',
    looksFor: 'Like HTTP or RPC calls that the request reaches by the same path of span names.',
    thresholds: [LOOP],
    why: 'A round trip over the network for each item, while the called service is healthy: it is only asked too often.',
    doThis: 'Ask for all items in one call, or run the calls side by side where the other side can bear it.'
  },
  {
    rule: 'chatty-cache',
    name: 'A cache call for every item',
    looksFor: 'The same loop, of commands to a cache.',
    thresholds: [LOOP],
    why: 'Each command is fast, and each is a round trip.',
    doThis: 'Send one command for many keys, or a pipeline.'
  },
  {
    rule: 'chatty-messaging',
    name: 'A message for every item',
    looksFor: 'The same loop, of messages sent.',
    thresholds: [LOOP],
    why: 'Sending, and often a confirmation, is paid for each item.',
    doThis: 'Send a batch and wait once.'
  },
  {
    rule: 'waits-for-connection',
    name: 'Waits for a connection',
    looksFor:
      'Time in spans of a connection pool, without the opening of a new connection. The size of the pool where it was recorded.',
    thresholds: [
      {
        name: 'cost',
        value: `at least ${formatDuration(CONNECTION_MIN_NS)} and ${formatShare(CONNECTION_MIN_SHARE)} of the request`,
        why: 'Shorter waits are ordinary.'
      }
    ],
    why: 'The database is not slow: somebody keeps the connections.',
    doThis: 'Give connections back before other slow work; keep transactions short.'
  },
  {
    rule: 'waits-for-lock',
    name: 'Waits for a lock',
    looksFor: 'Time in spans and events of a lock, and statements that lock what they read.',
    thresholds: [
      {
        name: 'cost',
        value: `at least ${formatDuration(LOCK_MIN_NS)} and ${formatShare(LOCK_MIN_SHARE)} of the request`,
        why: 'Shorter waits are ordinary.'
      }
    ],
    why: 'The request does nothing; somebody else holds what it needs.',
    doThis: 'Find the holder in a thread dump or in the database’s list of locks; hold it for less.'
  },
  {
    rule: 'one-slow-call',
    name: 'One slow call',
    looksFor: 'One call whose own part of the critical path decides how long the request takes.',
    thresholds: [
      {
        name: 'share',
        value: `${formatShare(SLOW_CALL_SHARE)} of the request, and at least ${formatDuration(SLOW_CALL_MIN_NS)}`,
        why: 'From there on nothing else can make the request much faster. Shorter requests are not slow.'
      }
    ],
    why: 'The request waits for it.',
    doThis: 'Look at its plan, or at the called side: a missing index, too many rows, a wait behind another.'
  },
  {
    rule: 'could-run-together',
    name: 'Could run side by side',
    looksFor:
      'Different reads under one parent, each begun right after the one before had ended. A trace does not show whether one needs the other’s answer; that is for you to say.',
    thresholds: [
      {
        name: 'gap',
        value: `at most ${formatDuration(TOGETHER_MAX_GAP_NS)} between two calls`,
        why: 'Work in between hints that the answer was used. Common practice.'
      },
      {
        name: 'length',
        value: `each at least ${formatDuration(TOGETHER_MIN_CALL_NS)}, together worth ${formatShare(TOGETHER_MIN_SHARE)} of the request`,
        why: 'Shorter ones gain less than the change costs to understand.'
      }
    ],
    why: 'The request takes the sum of them where the longest would do.',
    doThis: 'Where none needs another’s answer, start them together and wait for all.'
  },
  {
    rule: 'too-many-rows',
    name: 'Too many rows',
    looksFor: 'A query without a limit of its own that returned very many rows.',
    thresholds: [
      {
        name: 'rows',
        value: `more than ${formatCount(TOO_MANY_ROWS)}`,
        why: 'More than a person or a page can use at once. Common practice.'
      }
    ],
    why: 'Reading, sending and turning them into objects takes time and memory, and grows with the table.',
    doThis: 'Ask for one page, or let the database count and sum.'
  },
  {
    rule: 'round-timeout',
    name: 'Likely timeout',
    looksFor: `A call that fails within ${formatShare(ROUND_TOLERANCE)} after ${ROUND_LIMITS_S.join(', ')} seconds; or ${ROUND_MIN_CALLS} and more of a group that end there, while the called side did not work that long.`,
    thresholds: [
      {
        name: 'after the limit',
        value: formatShare(ROUND_TOLERANCE),
        why: 'Limits are set by hand, in round seconds; a call that runs into one ends just after. Common practice.'
      }
    ],
    why: 'The time is not work: it is somebody’s patience running out.',
    doThis: 'Look for a timeout of that length on either side, and at why the answer did not come.'
  },
  {
    rule: 'blind-stretch',
    name: 'A blind stretch',
    looksFor: 'Time inside a span that no child span, no event and no sample explains.',
    thresholds: [
      {
        name: 'length',
        value: `more than ${formatDuration(UNSEEN_MIN_NS)} and ${formatShare(UNSEEN_MIN_SHARE)} of the request`,
        why: 'Shorter ones are ordinary own code.'
      }
    ],
    why: 'It may have computed or waited; the trace does not say.',
    doThis: 'Open a profile of the process for those milliseconds, or add spans inside.'
  },
  {
    rule: 'retry-storm',
    name: 'Tried again and again',
    looksFor: 'One and the same call repeated after it failed.',
    thresholds: [
      {
        name: 'attempts',
        value: `${STORM_MIN_ATTEMPTS} or more`,
        why: 'One retry is prudence; from the second on the request pays for a fault elsewhere. Common practice.'
      }
    ],
    why: 'Each attempt makes the request longer, and the failing side busier.',
    doThis: 'Find out why it fails. Retry fewer times, with growing pauses.'
  },
  {
    rule: 'failed-but-waited',
    name: 'Waited for a failure',
    looksFor: 'Calls the request waited for that then failed.',
    thresholds: [
      {
        name: 'cost',
        value: `at least ${formatDuration(FAILED_MIN_NS)} and ${formatShare(FAILED_MIN_SHARE)} of the request`,
        why: 'Less did not make it slow.'
      }
    ],
    why: 'Time spent for nothing.',
    doThis: 'Fail sooner, or leave the call out while the other side is down.'
  },
  {
    rule: 'one-host',
    name: 'One slow host',
    looksFor: 'A host that answers an endpoint slower than the others do, under the same release.',
    thresholds: [
      {
        name: 'ratio of the medians',
        value: `${ONE_HOST_MIN_RATIO} or more`,
        why: 'Hosts are never exactly alike.'
      },
      SURE
    ],
    why: 'The code is the same: it is the host, or what is near it.',
    doThis: 'Compare its hardware, neighbours, configuration and caches with the others.'
  },
  {
    rule: 'since-release',
    name: 'Slower since a release',
    looksFor: 'An endpoint whose requests take longer under a release than under the one before it.',
    thresholds: [
      {
        name: 'ratio of the medians',
        value: `${RELEASE_MIN_RATIO} or more`,
        why: 'Smaller ones are seldom noticed.'
      },
      SURE
    ],
    why: 'What changed is in that release, or came with it.',
    doThis: 'Open a typical request of each side by side; what is extra or slower is what changed.'
  },
  {
    rule: 'cold-start',
    name: 'Slow right after a start',
    looksFor: 'The first request a process served, when it took several times the endpoint’s median.',
    thresholds: [
      {
        name: 'length',
        value: `${COLD_MIN_RATIO} times the median and at least ${formatDuration(COLD_MIN_NS)}`,
        why: 'Every first request is a little slower.'
      }
    ],
    why: 'Connections are opened, caches filled and code compiled on a user’s time.',
    doThis: 'Warm up before the process takes requests.'
  }
];
