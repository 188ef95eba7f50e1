/** Stands for a value that was replaced; also what masking at the door leaves. */
const VALUE = '?';
/** Longest part of a message that tells failures apart. */
const MAX_LENGTH = 300;

const holds =
  (part: string) =>
  (text: string): boolean =>
    text.includes(part);

/**
 * What tells one message from the next without being another failure, in the order it is replaced: what holds others goes first.
 * The kinds are those of common practice: quoted parts, addresses, paths, ids, times, numbers. Few are in any one message: a look tells which.
 */
const VALUES: { needs: (text: string) => boolean; pattern: RegExp }[] = [
  // Quoted parts; apostrophes within words are none.
  {
    needs: (text) => /["'`“‘«]/.test(text),
    pattern: /(?<![\p{L}\p{N}])(["'`“‘«])(?:(?!["'`”’»])[^\\\n]|\\.){0,1000}(?:["'`”’»]|$)(?![\p{L}])/gu
  },
  // Addresses of the web, of mail, of hosts with a port.
  { needs: holds('://'), pattern: /\b[a-z][a-z0-9+.-]{1,20}:\/\/[^\s,;)\]}>"']+/gi },
  { needs: holds('@'), pattern: /[\w.+-]+@[\w-]+(?:\.[\w-]+)+/g },
  {
    needs: (text) => /:[0-9a-f]*:/i.test(text),
    pattern: /\[?(?:[0-9a-f]{0,4}:){2,7}(?:[0-9a-f]{1,4}|\d+\.\d+\.\d+\.\d+)?\]?(?::\d+)?(?![\w])/gi
  },
  { needs: holds('.'), pattern: /\b\d{1,3}(?:\.\d{1,3}){3}(?::\d+)?\b/g },
  { needs: holds('.'), pattern: /\b[a-z0-9-]+(?:\.[a-z0-9-]+)+:\d{2,5}\b/gi },
  // Paths of at least two parts.
  {
    needs: (text) => text.includes('/') || text.includes('\\'),
    pattern: /(?<![\w.])(?:[A-Za-z]:)?(?:[\\/][\w.@~+-]+){2,}[\\/]?(?::\d+)*/g
  },
  // UUIDs, times, and words with digits in them: ids, hashes, references to objects.
  { needs: holds('-'), pattern: /\b[0-9a-f]{8}-(?:[0-9a-f]{4}-){3}[0-9a-f]{12}\b/gi },
  {
    needs: holds('-'),
    pattern: /\b\d{4}-\d\d-\d\d(?:[T ]\d\d:\d\d(?::\d\d(?:[.,]\d+)?)?)?(?:Z|[+-]\d\d:?\d\d)?\b/g
  },
  { needs: holds(':'), pattern: /\b\d{1,2}:\d\d(?::\d\d(?:[.,]\d+)?)?\b/g },
  { needs: holds('0x'), pattern: /\b0x[0-9a-f]+\b/gi },
  { needs: holds('@'), pattern: /@[0-9a-f]{5,}\b/gi },
  { needs: (text) => /[0-9a-f]{12}/i.test(text), pattern: /\b[0-9a-f]{12,}\b/gi },
  // Codes of errors and of standards are none.
  {
    needs: (text) => /\d{3}/.test(text),
    pattern:
      /\b(?![A-Z]{1,6}-?\d{1,5}[A-Z]?\b)(?=[\p{L}\d])(?=[\p{L}_-]*\d)(?=\d*[\p{L}_-])[\p{L}\d_]*(?:-[\p{L}\d_]+)*\d{3,}[\p{L}\d_]*(?:-[\p{L}\d_]+)*\b/gu
  },
  // Numbers, with what they are counted in left as it is.
  {
    needs: (text) => /\d/.test(text),
    pattern: /(?<![\p{L}_\d]|[A-Z]-)[-+]?\d+(?:[.,_]\d+)*(?:e[-+]?\d+)?(?=(?:[a-zµ%]{0,3})(?![\p{L}\d]))/giu
  }
];

/** Texts repeat; bounded, since they come from outside. */
const known = new Map<string, string>();
const MAX_KNOWN = 5000;

/** A message with its values replaced by `?`: equal for messages that differ in them alone. Of several lines the first counts. */
export function messageTemplate(message: string): string {
  const end = message.search(/\r|\n/);
  const line = message.slice(0, Math.min(end < 0 ? message.length : end, 2 * MAX_LENGTH)).trim();
  let template = known.get(line);
  if (template === undefined) {
    template = templateOf(line);
    if (known.size >= MAX_KNOWN) known.clear();
    known.set(line, template);
  }
  return template;
}

function templateOf(line: string): string {
  let text = line;
  // Most messages hold nothing that could be a value.
  if (/[\d"'`“‘«@/\\]/.test(text))
    for (const { needs, pattern } of VALUES) if (needs(text)) text = text.replace(pattern, VALUE);
  if (text.includes('?')) text = text.replace(/\?(?:\s*[,;]\s*\?)+/g, VALUE);
  return text.replace(/\s+/g, ' ').slice(0, MAX_LENGTH).trim();
}
