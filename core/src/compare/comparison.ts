import { eachSide, type Side, type Sides } from '../sides';
import type { ComparedSide, LedgerBy } from './compared-side';
import { differenceLedger, type DifferenceLedger } from './difference-ledger';
import { fisherTest } from '../stats/fisher-test';
import { findingChanges, type FindingChange } from './finding-changes';
import { howSure, ONLY_SUMS, type HowSure, type Statistic, type SureOptions } from './how-sure';
import { dependenceOf } from '../stats/autocorrelation';

/** Something about the sides that a reader must know before the figures. */
export type SideNote =
  | { code: 'empty'; side: Side }
  /** Single requests of it are gone, or too many to be read one by one: only their sums tell of it. */
  | { code: 'sums'; side: Side }
  /** Of very many only the newest were read. */
  | { code: 'newest'; side: Side; requests: number; of: number }
  | { code: 'few'; side: Side; requests: number }
  | { code: 'overlap' }
  | { code: 'same' };

/** What is said of two sides without drawing samples. */
export interface ComparedFigures {
  requests: Sides<number>;
  /** Median and p95 of each, nanoseconds. */
  figures: Sides<Record<Statistic, number>>;
  failed: Sides<number>;
  /** Two-sided probability of such shares of failed requests by chance alone; NaN where a side is empty. */
  failedP: number;
  /** By service null where that is not worked out. */
  ledgers: Record<Exclude<LedgerBy, 'service'>, DifferenceLedger> & { service: DifferenceLedger | null };
  findings: FindingChange[];
  notes: SideNote[];
}

/** Everything that is said of two sides. */
export interface Comparison extends ComparedFigures {
  sure: HowSure;
}

/** Fewer requests than this are named: what is said of them is rough. */
const FEW = 30;

/** Holds two sides against each other. */
export const compareSides = (sides: Sides<ComparedSide>, options: SureOptions = {}): Comparison => ({
  ...compareFigures(sides),
  sure:
    sides.before.kept === 'sums' || sides.after.kept === 'sums'
      ? ONLY_SUMS
      : howSure(
          eachSide(sides, ({ durationsNs }) => durationsNs),
          options
        )
});

/** The quick part of it: what is drawn from samples may follow. */
export function compareFigures(sides: Sides<ComparedSide>): ComparedFigures {
  const requests = eachSide(sides, requestsOf);
  const failed = eachSide(sides, (side) => side.failed);
  const both = requests.before > 0 && requests.after > 0;
  // Of sums it is not known how their requests hang together: then nothing is said to be clear.
  const inflation = eachSide(sides, ({ kept, durationsNs }) =>
    kept === 'sums' ? NaN : durationsNs.length / dependenceOf(durationsNs).effective
  );
  const ledger = (by: 'part' | 'account'): DifferenceLedger =>
    differenceLedger(
      eachSide(sides, ({ totals }) => totals[by]),
      inflation
    );
  const services = eachSide(sides, ({ totals }) => totals.service);
  return {
    requests,
    figures: eachSide(sides, ({ figures }) => figures),
    failed,
    failedP: both ? fisherTest(failed.before, requests.before, failed.after, requests.after) : NaN,
    ledgers: {
      part: ledger('part'),
      account: ledger('account'),
      service:
        services.before && services.after
          ? differenceLedger({ before: services.before, after: services.after }, inflation)
          : null
    },
    findings: findingChanges(
      eachSide(sides, ({ findings }) => findings),
      requests
    ),
    notes: notesOf(sides, requests)
  };
}

function partlyRead({ kept, inScope, durationsNs }: ComparedSide, side: Side): SideNote[] {
  if (kept === 'sums') return [{ code: 'sums', side }];
  return inScope > durationsNs.length
    ? [{ code: 'newest', side, requests: durationsNs.length, of: inScope }]
    : [];
}

const requestsOf = ({ totals }: ComparedSide): number => totals.part.requests;

function notesOf({ before, after }: Sides<ComparedSide>, requests: Sides<number>): SideNote[] {
  const notes: SideNote[] = [];
  for (const side of ['before', 'after'] as const)
    if (requests[side] === 0) notes.push({ code: 'empty', side });
    else if (requests[side] < FEW) notes.push({ code: 'few', side, requests: requests[side] });
  for (const side of ['before', 'after'] as const)
    notes.push(...partlyRead(side === 'before' ? before : after, side));
  if (isSame(before, after)) notes.push({ code: 'same' });
  else if (before.fromUs <= after.toUs && after.fromUs <= before.toUs) notes.push({ code: 'overlap' });
  return notes;
}

const isSame = (before: ComparedSide, after: ComparedSide): boolean =>
  before.durationsNs.length > 0 &&
  before.fromUs === after.fromUs &&
  before.durationsNs.length === after.durationsNs.length &&
  before.durationsNs.every((took, i) => took === after.durationsNs[i]);
