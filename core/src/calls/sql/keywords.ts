/**
 * Words whose case is folded. Unquoted identifiers keep theirs: some databases' table names depend on it.
 * The reserved words of SQL:2016 (ISO/IEC 9075-2, 5.2) that occur in statements, and common ones of the dialects; from memory.
 */
export const KEYWORDS = new Set(
  `add all alter analyze and any array as asc begin between both by cascade case cast check collate column commit
  conflict constraint create cross current current_date current_time current_timestamp cube database default delete
  desc distinct do drop else end escape except exists explain extract false fetch filter first for foreign from full
  function group grouping having if ignore ilike in index inner insert intersect interval into is isnull join key last
  lateral leading left like limit locked lock merge natural next no not nothing notnull null nulls of offset on only or order
  outer over partition primary procedure range recursive references release replace returning right rollback rollup row
  rows savepoint select set sets share similar skip some start symmetric table tablesample temp temporary then ties to
  top trailing transaction trigger true truncate union unique unknown update using values vacuum view when where window
  with within without`.split(/\s+/)
);
