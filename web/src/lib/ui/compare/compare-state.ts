import { LEDGERS } from '@tromix/core/compare/compared-side';
import { defineParams, oneOf, texts } from '$lib/ui/frame/params';

/** What the comparison shows. */
export const PARTS_OF_COMPARE = {
  requests: 'Requests',
  why: 'Why',
  calls: 'Calls',
  profiles: 'Profiles',
  heaps: 'Heaps',
  threads: 'Threads',
  everything: 'Everything else'
} as const;
export const SHOWS = Object.keys(PARTS_OF_COMPARE) as (keyof typeof PARTS_OF_COMPARE)[];

export const COMPARE_PARAMS = defineParams({
  show: oneOf(SHOWS, 'requests'),
  ledger: oneOf(LEDGERS, 'part'),
  /** Lines that are unfolded. */
  unfolded: texts('line'),
  /** Titles of the lists that are shown whole. */
  whole: texts('whole'),
  curve: oneOf(['classes', 'up to'] as const, 'classes')
});
