import { defineParams, flag, integer, oneOf, text, type StateOfSet } from '../frame/params';

export const SHOWS = ['holders', 'classes', 'packages', 'objects', 'roots', 'strings', 'growth'] as const;
export type Show = (typeof SHOWS)[number];

/** What is looked at; it all stands in the URL. */
export const HEAP_PARAMS = defineParams({
  show: oneOf(SHOWS, 'holders'),
  /** Evidence of the earlier dump it is held against; '' for none, `none` where that was chosen. */
  before: text(),
  /** Weak, soft and phantom references keep alive too. */
  weak: flag(),
  /** Object chosen; −1 for none. */
  object: integer(-1),
  /** Classes whose name holds this. */
  name: text('class'),
  /** Strings that hold this. */
  value: text(),
  /** Least retained bytes. */
  least: integer(0),
  /** Of which kind of roots. */
  root: text(),
  /** Only objects the earlier dump did not have. */
  added: flag()
});
export type HeapState = StateOfSet<typeof HEAP_PARAMS>;
