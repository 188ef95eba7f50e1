/** A statement whose plain literals are all alike, and those literals in order. */
export interface Skeleton {
  text: string;
  numbersAndStrings: string[];
}

/** Stand for every plain number and string of a skeleton. */
export const NUMBER_PLACE = '0';
export const STRING_PLACE = "'?'";

/** Quoting, comments, escapes and numbers of parameters, whose rules differ between dialects: only the tokeniser reads these. */
const NEEDS_TOKENS = /["`$\\#[]|--|\/\*|''|[?:@%]\d|(?<!\d)\.\d/;
/** `E'…'`, `N'…'`, `U&'…'` and the like. */
const PREFIXED = /[\w&]'/;
/** A quoted string, or a number that is no part of a name, of a parameter or of a longer number. */
const PLAIN_LITERAL = /'[^']*'|(?<![\w.?:@%]|[\u0080-\uffff])\d+(?:\.\d+)?(?![\w.]|[\u0080-\uffff])/g;

/**
 * Takes the plain literals out of a statement without reading its tokens, so that statements alike but for these are
 * recognised at once; null where that could be wrong in some dialect.
 */
export function skeletonOf(sql: string): Skeleton | null {
  if (NEEDS_TOKENS.test(sql)) return null;
  const numbersAndStrings: string[] = [];
  const text = sql.replace(PLAIN_LITERAL, (literal) => {
    numbersAndStrings.push(literal);
    return literal.startsWith("'") ? STRING_PLACE : NUMBER_PLACE;
  });
  const closed = (text.match(/'/g)?.length ?? 0) % 2 === 0;
  return closed && !PREFIXED.test(text) ? { text, numbersAndStrings } : null;
}
