import { tablesOf } from '../calls/sql/tables';
import { eachSide, type Sides } from '../sides';
import { believable } from '../stats/false-discovery';
import { upperTail } from '../stats/rank-test';

/** Like work over all requests of a side. Whole nanoseconds and counts: sums are divided once, for display. */
export interface PartTotal {
  /** The account or the kind of call: `RequestPart.kind`. */
  kind: string;
  /** A call's fingerprint, or the name of the spans. */
  name: string;
  verb: string;
  /** What it stands under; '' where that is not known, or not one and the same. */
  parent: string;
  /** Calls, booked or not. */
  count: number;
  bookedNs: number;
  /** Sum over the requests of each one's booked time squared: how much requests differ in it. Less than can be (below 0) where it is not known. */
  squares: number;
}

/** All requests of one side. */
export interface SideTotals {
  requests: number;
  /** Of all requests. The parts add up to it. */
  totalNs: number;
  parts: readonly PartTotal[];
}

/** One side of a part, for one request. */
export interface PerRequest {
  calls: number;
  ns: number;
}

/** One line of the ledger: what a part of the request adds to the difference of the averages. */
export interface DifferenceLine {
  /** What it is about; `before` and `after` differ only where one kind of call replaced another. Null on a side that has none of it. */
  parts: Sides<PartTotal | null>;
  perRequest: Sides<PerRequest>;
  /** After − before, nanoseconds a request. The lines' sum is the difference of the averages. */
  differenceNs: number;
  /** What of it comes from more or fewer calls, and what from each call's taking longer or shorter; together they are `differenceNs`. */
  byHowOftenNs: number;
  byHowLongEachNs: number;
  replaced: boolean;
  /** Two-sided probability of such a difference of averages by chance alone; NaN where a side has fewer than two requests. */
  p: number;
  /** Whether it is believed, among all lines (Benjamini–Hochberg). */
  clear: boolean;
}

export interface DifferenceLedger {
  requests: Sides<number>;
  /** Average duration of a request, nanoseconds; NaN for a side without one. */
  averageNs: Sides<number>;
  differenceNs: number;
  /** Greatest difference first, whatever its sign. */
  lines: DifferenceLine[];
}

/**
 * Which parts of the request make the difference of two averages. The parts of a request add up to its duration, so the difference of two averages is the sum of the
 * differences of their parts, exactly. For a part with n calls a request and c nanoseconds booked to each of them
 *
 *     Δ = nB·cB − nA·cA = (nB − nA)·(cA + cB)/2  +  (cB − cA)·(nA + nB)/2
 *                         by how often               by how long each
 *
 * (the two-factor decomposition with midpoint weights, common practice in index-number theory). A part that only one side has is all "by how often".
 * @param inflation by how much the variance of an average is greater than that of as many independent requests, for each side.
 */
export function differenceLedger(
  sides: Sides<SideTotals>,
  inflation: Sides<number> = { before: 1, after: 1 }
): DifferenceLedger {
  const requests = eachSide(sides, (side) => side.requests);
  const averageNs = eachSide(sides, ({ totalNs, requests: count }) => totalNs / count);
  const lines = pairParts(sides).map((parts) => lineOf(parts, requests, inflation));
  const { believed } = believable(lines.map(({ p }) => p));
  lines.forEach((line, i) => (line.clear = believed[i]));
  lines.sort((a, b) => Math.abs(b.differenceNs) - Math.abs(a.differenceNs));
  const differenceNs = perRequest(sides.before.totalNs, sides.after.totalNs, requests);
  return { requests, averageNs, differenceNs, lines };
}

/** The parts of both sides that belong together: alike, or one in the place of the other. */
function pairParts({ before, after }: Sides<SideTotals>): Sides<PartTotal | null>[] {
  const later = new Map(after.parts.map((part) => [partKey(part), part]));
  const pairs: Sides<PartTotal | null>[] = [];
  const gone: PartTotal[] = [];
  for (const part of before.parts) {
    const same = later.get(partKey(part));
    if (!same) gone.push(part);
    else pairs.push({ before: part, after: same });
    later.delete(partKey(part));
  }
  const places = new Map<string, PartTotal[]>();
  for (const part of byWeight([...later.values()])) {
    const place = placeOf(part);
    places.set(place, [...(places.get(place) ?? []), part]);
  }
  for (const part of byWeight(gone)) {
    const replacement = places.get(placeOf(part))?.shift() ?? null;
    if (replacement) later.delete(partKey(replacement));
    pairs.push({ before: part, after: replacement });
  }
  for (const part of later.values()) pairs.push({ before: null, after: part });
  return pairs;
}

const byWeight = (parts: PartTotal[]): PartTotal[] => parts.sort((a, b) => b.bookedNs - a.bookedNs);
/** Equal for like parts. */
export const partKey = ({ kind, name }: Pick<PartTotal, 'kind' | 'name'>): string => `${kind}\n${name}`;

/** What a call may be replaced within: the same parent, kind and verb, and the same tables or the same host. Spans that are no calls stand for themselves. */
function placeOf({ kind, name, verb, parent }: PartTotal): string {
  if (verb === '') return partKey({ kind, name });
  const about =
    kind === 'database'
      ? tablesOf(name).join(' ')
      : (/^\w+ (?:https?:\/\/)?([^/?\s]+)/.exec(name)?.[1] ?? '');
  return about === '' ? partKey({ kind, name }) : `${parent}\n${kind}\n${verb}\n${about}`;
}

function lineOf(
  parts: Sides<PartTotal | null>,
  requests: Sides<number>,
  inflation: Sides<number>
): DifferenceLine {
  const count = eachSide(parts, (part) => part?.count ?? 0);
  const booked = eachSide(parts, (part) => part?.bookedNs ?? 0);
  const differenceNs = perRequest(booked.before, booked.after, requests);
  const calls = eachSide(count, (all, side) => all / requests[side]);
  const one = count.before === 0 || count.after === 0;
  const each = eachSide(count, (all, side) => booked[side] / all);
  const byHowLongEachNs = one ? 0 : ((each.after - each.before) * (calls.before + calls.after)) / 2;
  return {
    parts,
    perRequest: eachSide(calls, (of, side) => ({ calls: of, ns: booked[side] / requests[side] })),
    differenceNs,
    byHowOftenNs: differenceNs - byHowLongEachNs,
    byHowLongEachNs,
    replaced: parts.before !== null && parts.after !== null && parts.before.name !== parts.after.name,
    p: chanceOf(differenceNs, parts, requests, inflation),
    clear: false
  };
}

/** The z test of two averages, whose variances are estimated from the samples (the central limit theorem; any textbook). */
function chanceOf(
  differenceNs: number,
  parts: Sides<PartTotal | null>,
  requests: Sides<number>,
  inflation: Sides<number>
): number {
  const { before, after } = eachSide(parts, (part, side) => {
    const n = requests[side];
    if (n < 2) return NaN;
    const mean = (part?.bookedNs ?? 0) / n;
    const squares = part?.squares ?? 0;
    if (squares < 0) return NaN;
    const variance = Math.max(0, (squares - n * mean * mean) / (n - 1));
    return (variance * inflation[side]) / n;
  });
  const error = Math.sqrt(before + after);
  if (Number.isNaN(error)) return NaN;
  // Where requests do not differ at all, only no difference is chance.
  if (error === 0) return differenceNs === 0 ? 1 : 0;
  return Math.min(1, 2 * upperTail(Math.abs(differenceNs) / error));
}

/** after ÷ its requests − before ÷ its requests, from whole numbers, rounded once. */
function perRequest(before: number, after: number, requests: Sides<number>): number {
  const over = BigInt(requests.before) * BigInt(requests.after);
  if (over === 0n) return NaN;
  return quotient(BigInt(after) * BigInt(requests.before) - BigInt(before) * BigInt(requests.after), over);
}

/** A quotient of whole numbers to the last digit that a number holds. */
function quotient(dividend: bigint, divisor: bigint): number {
  const whole = dividend / divisor;
  return Number(whole) + Number(dividend - whole * divisor) / Number(divisor);
}
