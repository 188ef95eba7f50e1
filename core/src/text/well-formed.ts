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

/**
 * The value of an attribute within a limit. Of a stack both ends stay: some runtimes write what was thrown first, others last.
 * @param name of the attribute
 */
export function cutValue(text: string, most: number, name: string): string {
  if (text.length <= most || !STACK.test(name)) return cutText(text, most);
  const between = '\n    (cut here)\n';
  const half = Math.max(1, Math.floor((most - between.length) / 2));
  const end = text.slice(text.length - half);
  // Never half a character, never half a line where there are lines.
  const line = end.indexOf('\n');
  const begin = cutText(text, half);
  const lastLine = begin.lastIndexOf('\n');
  return (lastLine > 0 ? begin.slice(0, lastLine) : begin) + between + end.slice(line + 1).toWellFormed();
}
const STACK = /stack_?trace$/i;
