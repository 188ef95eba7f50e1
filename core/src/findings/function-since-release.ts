import { groupBy } from '../group-by';
import type { Frame } from '../profile/model';
import type { ScopeSlice } from '../profile/sums/scope-sums';
import { StackOwners } from '../profile/sums/stack-owners';
import type { StackDictionary } from '../profile/sums/stack-sums';
import type { Sides } from '../sides';
import { believable } from '../stats/false-discovery';
import { rankTestOf } from '../stats/rank-test';
import { formatCount, formatDuration, formatShare } from '../text/format';
import { defineRule } from './define-rule';
import { severityOf, type Severity } from './finding';
import { placeName } from './profile-finding';

/** Slices of recordings each release must have: below that no test tells a change from chance, with as many functions as there are. */
export const MIN_SLICES = 5;
/** A function must take so much more of a request. */
export const FUNCTION_MIN_RATIO = 1.2;
/** So much of an endpoint’s CPU a request must be at stake. */
export const FUNCTION_MIN_SHARE = 0.05;
/** Functions that take less than this on both sides are not looked at: each more would make the test of all stricter. */
export const LOOKED_AT_SHARE = 0.01;
const MAX_FOUND = 5;

/** The recordings of one endpoint. */
export interface EndpointSumsContext {
  dictionary: StackDictionary;
  /** With the endpoint's shares alone. */
  slices: readonly ScopeSlice[];
  releases: readonly { id: number; name: string; firstUs: number }[];
}

/** A function that takes clearly more of a request. Microseconds a request. */
export interface FoundSinceRelease {
  title: string;
  severity: Severity;
  sentence: string;
  remedy: string;
  frame: Frame;
  /** Names of the releases it is between. */
  releases: Sides<string>;
  figures: { beforeUs: number; afterUs: number; ratio: number; p: number; tested: number };
}

/** A function whose CPU a request is clearly more since a release. */
export const functionSinceRelease = defineRule({
  rule: 'function-since-release',
  name: 'Function slower since a release',
  looksFor:
    'A function of the application that takes clearly more CPU a request, with what it calls in libraries and the runtime, under a release than under the one before it.',
  thresholds: [
    {
      name: 'CPU a request',
      value: `${FUNCTION_MIN_RATIO} times as much or more`,
      why: 'Smaller changes come from load and warm-up as well.'
    },
    {
      name: 'at stake',
      value: `${formatShare(FUNCTION_MIN_SHARE)} of the endpoint’s CPU or more`,
      why: 'Less would hardly be noticed.'
    },
    {
      name: 'slices of recordings',
      value: `${MIN_SLICES} or more of each release`,
      why: 'With fewer, a rank test cannot tell a change of one function among many from chance.'
    },
    {
      name: 'sure',
      value: 'one in 20 of those told may be chance (Benjamini–Hochberg over all functions looked at)',
      why: 'Among hundreds of functions some differ by chance alone.'
    }
  ],
  why: 'What a release changed in one function is paid by every request that runs it.',
  doThis: [
    'Open the difference of both releases at that function: what is new below it is what changed.',
    'Read its lines, and what was committed to them with the release.'
  ],
  find
});

function find({ dictionary, slices, releases }: EndpointSumsContext): FoundSinceRelease[] {
  const byRelease = groupBy(slices, ({ release }) => release);
  const inOrder = releases
    .filter(({ id }) => (byRelease.get(id)?.length ?? 0) >= MIN_SLICES)
    .toSorted((a, b) => a.firstUs - b.firstUs);
  if (inOrder.length < 2) return [];
  const owners = new StackOwners(dictionary);
  const measured = inOrder.map((release) => ({ release, ...measure(owners, byRelease.get(release.id)!) }));
  return measured.slice(1).flatMap((after, i) => between(owners, measured[i], after));
}

/** CPU a request of one release. */
interface Measured {
  /** By slice that has requests: what each owner took of a request, microseconds. */
  perRequest: Float64Array[];
  /** The same over all slices. */
  mean: Float64Array;
  all: number;
}

function measure(owners: StackOwners, slices: readonly ScopeSlice[]): Measured {
  const perRequest: Float64Array[] = [];
  const mean = new Float64Array(owners.frames.length);
  let all = 0;
  let requests = 0;
  for (const { endpoints } of slices) {
    const sums = new Float64Array(owners.frames.length);
    const served = endpoints.reduce((sum, share) => sum + share.requests, 0);
    if (served <= 0) continue;
    for (const { weights } of endpoints) owners.add(weights, sums);
    sums.forEach((us, owner) => (mean[owner] += us));
    requests += served;
    perRequest.push(sums.map((us) => us / served));
  }
  mean.forEach((us, owner) => {
    mean[owner] = requests > 0 ? us / requests : 0;
    all += mean[owner];
  });
  return { perRequest, mean, all };
}

type OfRelease = Measured & { release: { name: string } };

function between(owners: StackOwners, before: OfRelease, after: OfRelease): FoundSinceRelease[] {
  if (Math.min(before.perRequest.length, after.perRequest.length) < MIN_SLICES) return [];
  const ps = owners.frames.map((_, owner) => {
    const looked =
      before.mean[owner] >= LOOKED_AT_SHARE * before.all || after.mean[owner] >= LOOKED_AT_SHARE * after.all;
    if (!looked) return NaN;
    const of = ({ perRequest }: Measured): number[] => perRequest.map((slice) => slice[owner]);
    return rankTestOf(of(before), of(after))?.p ?? NaN;
  });
  const { believed, tested } = believable(ps);
  return owners.frames
    .flatMap((frame, owner) => {
      const [was, is] = [before.mean[owner], after.mean[owner]];
      const isClear =
        believed[owner] && is - was >= FUNCTION_MIN_SHARE * after.all && is >= FUNCTION_MIN_RATIO * was;
      return isClear && frame.kind !== 'gc' && frame.kind !== 'program'
        ? [found(frame, { before, after }, { was, is, p: ps[owner], tested })]
        : [];
    })
    .sort((a, b) => b.figures.afterUs - b.figures.beforeUs - (a.figures.afterUs - a.figures.beforeUs))
    .slice(0, MAX_FOUND);
}

function found(
  frame: Frame,
  { before, after }: Sides<OfRelease>,
  { was, is, p, tested }: { was: number; is: number; p: number; tested: number }
): FoundSinceRelease {
  const name = placeName(frame);
  const took =
    was > 0
      ? `${(is / was).toFixed(1)} times the ${formatDuration(was * 1000)} under`
      : 'nothing of it under';
  return {
    title: `Slower since ${after.release.name}`,
    severity: severityOf(is - was, after.all),
    sentence: `Since release ${after.release.name}, ${name} takes ${formatDuration(is * 1000)} of CPU a request, ${took} ${before.release.name}; that is ${formatShare((is - was) / after.all)} of the endpoint’s CPU. By a rank test over ${formatCount(before.perRequest.length)} and ${formatCount(after.perRequest.length)} slices of recordings, corrected for the ${formatCount(tested)} functions looked at, this is not down to chance.`,
    remedy:
      'Open the difference of both releases at this function: what is new or heavier below it is what changed.',
    frame,
    releases: { before: before.release.name, after: after.release.name },
    figures: { beforeUs: was, afterUs: is, ratio: was > 0 ? is / was : Infinity, p, tested }
  };
}
