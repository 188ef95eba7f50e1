import { costs } from './over-many-words';
import { words } from '../text/words';
import { defineRule } from './define-rule';
import { greatestOf } from '../stats/extremes';
import { formatCount } from '../text/format';
import { callEvidence, type Found, type RuleContext } from './finding';
import { bookedBelow } from './loops';

/** More rows than a person or a page can use at once. Common practice. */
export const TOO_MANY_ROWS = 1000;
/** A statement that bounds its own answer: LIMIT, FETCH FIRST (SQL:2008), TOP. */
const BOUNDED = /\b(?:limit|fetch (?:first|next)|top)\b/i;

/** A query that returned very many rows and has no limit of its own. */
export const tooManyRows = defineRule({
  rule: 'too-many-rows',
  name: 'Too many rows',
  looksFor: 'A query without a limit that returned very many rows.',
  thresholds: [
    {
      name: 'rows',
      value: `more than ${formatCount(TOO_MANY_ROWS)}`,
      why: 'More than a person or a page can use at once. Common practice.'
    }
  ],
  why: 'Reading and sending them and turning them into objects takes time and memory, and grows with the table.',
  doThis: [
    'Check whether all rows are needed: fetch one page, or let the database count and sum.',
    'Select only the columns that are used.'
  ],
  overMany: (facts) => [...words`${[facts.endpoint]} reads very many rows at once.`, ...costs(facts)],
  find: (context: RuleContext): Found[] => {
    const { trace, groups } = context;
    return groups
      .filter(({ kind, fingerprint }) => kind === 'database' && !BOUNDED.test(fingerprint))
      .flatMap((group) => {
        const big = group.nodes.filter((node) => (trace.tree.nodes[node].call!.rows ?? 0) > TOO_MANY_ROWS);
        if (big.length === 0) return [];
        const most = greatestOf(big.map((node) => trace.tree.nodes[node].call!.rows!));
        const costNs = bookedBelow(context, big);
        return [
          {
            title: 'Too many rows',
            remedy: 'Fetch one page, or let the database count and sum.',
            figures: { calls: big.length, rows: most, bookedNs: costNs },
            evidence: callEvidence(trace, group, big),
            costNs,
            subject: group.fingerprint,
            say: ({ share }) =>
              `${group.fingerprint} returned ${formatCount(most)} rows${big.length > 1 ? ` at the most, ${formatCount(big.length)} times more than ${formatCount(TOO_MANY_ROWS)}` : ''} and has no limit${group.origin ? `; it was made at ${group.origin}` : ''}. It takes ${share} of this request; processing the rows comes on top.`
          }
        ];
      });
  }
});
