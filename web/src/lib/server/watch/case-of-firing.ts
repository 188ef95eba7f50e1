import type { Pin } from '@tromix/core/case/case';
import { formatCount, formatDuration, formatShare } from '@tromix/core/text/format';
import { figureOf } from '@tromix/core/watch/figures';
import { sentenceOf } from '@tromix/core/watch/notice';
import { runPast } from '@tromix/core/watch/past';
import { watchName } from '@tromix/core/watch/watch';
import type { Watched } from '@tromix/core/watch/watched';
import { limitWords, watchedWords } from '@tromix/core/watch/words';
import { scopeQuery, scopeWindow, type Scope } from '$lib/scope';
import { scopeOfWatched, viewOfWatched } from '$lib/watched-place';
import { pinned, requestEntry } from '../cases/draft';
import { draftOfSides } from '../cases/draft-of-sides';
import type { NewEntry } from '../cases/new-case';
import { linePicture } from '../cases/small-pictures';
import { reader } from '../db/reader';
import { failuresOf } from '../queries/failures';
import { findingsOf } from '../queries/findings';
import { requestsOf } from '../queries/requests';
import { totalIn } from '../queries/rollups';
import { readKnown } from './known';
import type { ListedFiring } from './queries';
import type { StoredWatch } from './stored';

const MINUTE_MS = 60_000;
/** So long before the minutes that brought it on is what they are held against. */
const BEFORE_MS = 30 * MINUTE_MS;
/** Of the figure so many minutes are drawn. */
const DRAWN_MINUTES = 60;
const MOST_FINDINGS = 3;
const MOST_FAILURES = 5;
/** A case takes 300 characters. */
const MOST_QUESTION = 290;

/** What is known of the moment in which a watch came on: its figure, what changed against the time before, and what costs most. */
export async function caseOfFiring(
  stored: StoredWatch,
  firing: ListedFiring,
  nowMs: number
): Promise<{ question: string; entries: NewEntry[] }> {
  const { watched, over, for: inRow } = stored.watch.condition;
  const to = (firing.onMinute + 1) * MINUTE_MS;
  const from = to - (over + inRow - 1) * MINUTE_MS;
  const scope = scopeOfWatched(watched, { from, to });
  const question = `${watchName(stored.watch)}: why?`;
  return {
    question: question.length > MOST_QUESTION ? `${question.slice(0, MOST_QUESTION)}…` : question,
    entries: [
      await noticedEntry(stored, firing),
      ...(await behind(watched, scope, nowMs)),
      pinned('Where to look', {
        kind: 'view',
        sentence: `The view of ${watchedWords(watched)}, over the minutes that brought the watch on.`,
        address: viewOfWatched(watched, { from, to })
      })
    ]
  };
}

async function behind(watched: Watched, scope: Scope, nowMs: number): Promise<NewEntry[]> {
  switch (watched.of) {
    case 'requests':
    case 'calls':
    case 'finding': {
      const isOfTail = watched.of === 'requests' && watched.figure === 'p95';
      return [...(await whatChanged(scope, isOfTail, nowMs)), ...(await costliest(scope, nowMs))];
    }
    case 'failures':
      return mostFrequent(scope, nowMs);
    default:
      return [];
  }
}

/** The figure as it went, with what it was when the watch came on. */
async function noticedEntry({ id, watch }: StoredWatch, firing: ListedFiring): Promise<NewEntry> {
  const { condition } = watch;
  const { text, title } = figureOf(condition.watched);
  const minutes = { from: firing.onMinute - DRAWN_MINUTES + 1, to: firing.onMinute };
  const [known] = await readKnown(await reader(), [condition], minutes);
  const { values } = runPast(condition, known, minutes.from, minutes.to);
  const { value, before } = firing;
  return pinned('Noticed', {
    kind: 'chart',
    role: 'noticed',
    sentence: sentenceOf('on', watch, { ...firing, on: firing.onMinute, off: null }),
    figures: [
      ...(value === null ? [] : [{ name: title, value: text(value) }]),
      ...(before === null ? [] : [{ name: 'held against', value: text(before) }]),
      { name: 'watched for', value: limitWords(condition) }
    ],
    picture: linePicture(values.map((one) => one ?? NaN)),
    address: `/watches/${id}`
  });
}

/** The minutes that brought it on against those before, by the comparison of two sides. @param isOfTail the slowest request is shown in the place of a typical one */
async function whatChanged(scope: Scope, isOfTail: boolean, nowMs: number): Promise<NewEntry[]> {
  const before: Scope = { ...scope, from: scope.from! - BEFORE_MS, to: scope.from };
  const draft = await draftOfSides({ before, after: scope }, nowMs);
  const slowest = draft && isOfTail ? await slowestEntry(scope, nowMs) : null;
  return (
    draft?.entries.map((entry) => {
      if (slowest && entry.pin?.role === 'slow request') return slowest;
      // That it was noticed is told by the watch.
      return entry.pin?.role === 'noticed' ? asComparison(entry, entry.pin) : entry;
    }) ?? []
  );
}

const asComparison = (entry: NewEntry, pin: Pin): NewEntry => ({
  ...entry,
  title: 'Against the half hour before',
  pin: { ...pin, role: '' }
});

async function slowestEntry(scope: Scope, nowMs: number): Promise<NewEntry | null> {
  const { slowest } = await requestsOf(scope, { sort: 'duration', groupBy: '', columns: [] }, nowMs);
  const [traceId, spanId] = slowest?.split('/') ?? [];
  return traceId ? requestEntry({ traceId, spanId }, 'slow request', scope) : null;
}

async function costliest(scope: Scope, nowMs: number): Promise<NewEntry[]> {
  const window = scopeWindow(scope, nowMs);
  const { exclusiveNs } = await totalIn(scope, window, nowMs);
  const found = await findingsOf(scope, window, nowMs, exclusiveNs, { limit: MOST_FINDINGS, aside: false });
  return found.map((finding) =>
    pinned(finding.title, {
      kind: 'finding',
      sentence: finding.sentence,
      figures: [
        { name: 'requests with it', value: formatCount(finding.requests) },
        { name: 'costs in all', value: formatDuration(finding.costNs) },
        { name: 'share of the time', value: formatShare(finding.share) }
      ],
      verbatim: finding.fingerprint,
      address: `/findings?${scopeQuery(scope)}`,
      traces: finding.example ? [finding.example.traceId] : []
    })
  );
}

async function mostFrequent(scope: Scope, nowMs: number): Promise<NewEntry[]> {
  const { groups } = await failuresOf(scope, scopeWindow(scope, nowMs), nowMs);
  return groups.slice(0, MOST_FAILURES).map(({ id, type, message, times, requests }) =>
    pinned(type || 'Failure', {
      kind: 'view',
      sentence: `${type}${message ? `: ${message}` : ''}`.slice(0, 1500),
      figures: [
        { name: 'times', value: formatCount(times) },
        { name: 'requests', value: formatCount(requests) }
      ],
      address: `/failures/${id}?${scopeQuery(scope)}`
    })
  );
}
