const REPLACEMENT = '\uFFFD';
const NUL = '\u0000';

/**
 * A text as every store and format can hold it: halves of UTF-16 surrogate pairs and U+0000 become U+FFFD. UTF-8 has no form for such a
 * half (The Unicode Standard, 3.9, D92), and C strings end at U+0000; everything else stays as it is.
 */
export function wellFormed(text: string): string {
  const whole = text.isWellFormed() ? text : text.toWellFormed();
  return whole.includes(NUL) ? whole.replaceAll(NUL, REPLACEMENT) : whole;
}

/**
 * The beginning of a text, never half a character.
 * @param most UTF-16 code units at most.
 */
export function cutText(text: string, most: number): string {
  if (text.length <= most) return text;
  const last = text.charCodeAt(most - 1);
  const half = last >= 0xd800 && last <= 0xdbff;
  return text.slice(0, half ? most - 1 : most);
}
