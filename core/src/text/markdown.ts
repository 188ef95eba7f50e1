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
