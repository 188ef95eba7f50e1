import { eachSide, type Side, type Sides } from '../sides';
import { LEDGERS, type ComparedSide, type LedgerBy } from './compared-side';
import { differenceLedger, type DifferenceLedger } from './difference-ledger';
import { fisherTest } from '../stats/fisher-test';
import { findingChanges, type FindingChange } from './finding-changes';
import { howSure, type HowSure, type SureOptions } from './how-sure';

/** Something about the sides that a reader must know before the figures. */
export type SideNote =
  | { code: 'empty'; side: Side }
  | { code: 'few'; side: Side; requests: number }
  | { code: 'overlap' }
  | { code: 'same' };

/** Everything that is said of two sides. */
export interface Comparison {
  requests: Sides<number>;
  failed: Sides<number>;
  /** Two-sided probability of such shares of failed requests by chance alone; NaN where a side is empty. */
  failedP: number;
  sure: HowSure;
  ledgers: Record<LedgerBy, DifferenceLedger>;
  findings: FindingChange[];
  notes: SideNote[];
}

/** Fewer requests than this are named: what is said of them is rough. */
const FEW = 30;

/** Holds two sides against each other. */
export function compareSides(sides: Sides<ComparedSide>, options: SureOptions = {}): Comparison {
  const requests = eachSide(sides, ({ durationsNs }) => durationsNs.length);
  const failed = eachSide(sides, (side) => side.failed);
  const sure = howSure(
    eachSide(sides, ({ durationsNs }) => durationsNs),
    options
  );
  const inflation = eachSide(requests, (count, side) => count / sure.effective[side]);
  const both = requests.before > 0 && requests.after > 0;
  return {
    requests,
    failed,
    failedP: both ? fisherTest(failed.before, requests.before, failed.after, requests.after) : NaN,
    sure,
    ledgers: Object.fromEntries(
      LEDGERS.map((by) => [
        by,
        differenceLedger(
          eachSide(sides, ({ totals }) => totals[by]),
          inflation
        )
      ])
    ) as Record<LedgerBy, DifferenceLedger>,
    findings: findingChanges(
      eachSide(sides, ({ findings }) => findings),
      requests
    ),
    notes: notesOf(sides, requests)
  };
}

function notesOf({ before, after }: Sides<ComparedSide>, requests: Sides<number>): SideNote[] {
  const notes: SideNote[] = [];
  for (const side of ['before', 'after'] as const)
    if (requests[side] === 0) notes.push({ code: 'empty', side });
    else if (requests[side] < FEW) notes.push({ code: 'few', side, requests: requests[side] });
  if (isSame(before, after)) notes.push({ code: 'same' });
  else if (before.fromUs <= after.toUs && after.fromUs <= before.toUs) notes.push({ code: 'overlap' });
  return notes;
}

const isSame = (before: ComparedSide, after: ComparedSide): boolean =>
  before.durationsNs.length > 0 &&
  before.fromUs === after.fromUs &&
  before.durationsNs.length === after.durationsNs.length &&
  before.durationsNs.every((took, i) => took === after.durationsNs[i]);
