/**
 * Text from outside as Markdown that means the text itself, on one line: signs of markup are escaped (CommonMark 2.4 allows it for all ASCII punctuation), line breaks
 * are spaces.
 */
export const markdownText = (text: string): string =>
  text
    .replace(/\s+/g, ' ')
    .trim()
    .replace(/[\\`*_{}[\]<>#|~!&]/g, (sign) => `\\${sign}`)
    .replace(/^([-+]|\d+[.)])(?= )/, (mark) => mark.replace(/([-+.)])$/, '\\$1'));

/** Text as a code span that no backtick of its own can end. */
export const codeSpan = (text: string): string => `\`${text.replace(/\s+/g, ' ').replaceAll('`', "'")}\``;

/** Text as a fenced block that no fence of its own can end (CommonMark, "Fenced code blocks"). */
export function codeBlock(text: string): string {
  const longest = Math.max(2, ...[...text.matchAll(/`+/g)].map(([run]) => run.length));
  const fence = '`'.repeat(longest + 1);
  return `${fence}\n${text}\n${fence}`;
}
